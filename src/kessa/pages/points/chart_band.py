"""The usual band of a chart: a box, or a wave where it goes with the season."""

from collections.abc import Callable, Sequence
from datetime import datetime

from kessa.results.history import Past
from kessa_core.trends.usual import Normal

BAND_POINTS = 40


def band_ends(seen: Sequence[Past], usual: Normal | None) -> list[tuple[float, float]]:
    """The usual band at equal steps of the time that is drawn; one where it is the same always."""
    if usual is None:
        return []
    times = _steps(seen) if usual.wave else [seen[-1].at]
    bands = [usual.at(at).band for at in times]
    return [(band.low or 0.0, band.high or 0.0) for band in bands]


def _steps(seen: Sequence[Past]) -> list[datetime]:
    whole = seen[-1].at - seen[0].at
    return [seen[0].at + whole * n / BAND_POINTS for n in range(BAND_POINTS + 1)]


def band_path(
    seen: Sequence[Past],
    ends: Sequence[tuple[float, float]],
    x: Callable[[datetime], float],
    y: Callable[[float], float],
) -> str:
    """The band as a closed path."""
    if not ends:
        return ""
    times = _steps(seen) if len(ends) > 1 else [seen[0].at, seen[-1].at]
    pairs = list(zip(times, ends if len(ends) > 1 else [*ends, *ends], strict=True))
    upper = [f"{x(at):.1f} {y(high):.1f}" for at, (_, high) in pairs]
    lower = [f"{x(at):.1f} {y(low):.1f}" for at, (low, _) in reversed(pairs)]
    return f"M{'L'.join([*upper, *lower])}Z"
