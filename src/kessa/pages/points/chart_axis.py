"""What the upright axis of a chart reaches over, and which limits are near enough to be drawn."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import ceil, floor

from kessa.results.history import Past
from kessa.ui.ticks import round_step
from kessa_core.judging import Limit


@dataclass(frozen=True)
class Axis:
    """What the upright axis reaches over, and the limits that are near enough to be drawn."""

    bottom: float
    top: float
    near: tuple[Limit, ...]

    @property
    def span(self) -> float:
        return self.top - self.bottom

    @property
    def levels(self) -> list[float]:
        """Round levels, four or five of them."""
        step = round_step(self.span / 5)
        first = ceil(self.bottom / step - 1e-9)
        return [step * n for n in range(first, floor(self.top / step + 1e-9) + 1)]


FROM_NOUGHT = 0.45
"""An axis starts at nought unless everything lies above this share of its top."""
NEAR = 1.2
"""Limits are drawn that lie no further than this many times the highest result from the others."""


def axis_of(
    seen: Sequence[Past],
    pair: Sequence[Past],
    ends: Sequence[tuple[float, float]],
    limits: Sequence[Limit],
) -> Axis:
    figures = [s.low for s in seen if not s.qualifier] or [s.number for s in seen]
    lows = [*figures, *(s.number for s in pair), *(low for low, _ in ends)]
    highs = [*(s.high for s in seen), *(s.number for s in seen), *(s.number for s in pair)]
    highs += [high for _, high in ends]
    bottom, top = min(lows), max(highs)
    reach = NEAR * abs(top)
    near = tuple(limit for limit in limits if ends_between(limit, bottom - reach, top + reach))
    drawn = [one for limit in near for one in ends_between(limit, bottom - reach, top + reach)]
    bottom, top = min([bottom, *drawn]), max([top, *drawn])
    if 0 <= bottom < FROM_NOUGHT * top:
        return Axis(0.0, top * 1.06 or 1.0, near)
    room = 0.06 * (top - bottom) or 0.5
    return Axis(bottom - room, top + room, near)


def ends_between(limit: Limit, least: float, most: float) -> list[float]:
    """The ends of a limit that lie between two levels."""
    ends = [float(end) for end in (limit.min, limit.max) if end is not None]
    return [end for end in ends if least <= end <= most]


def allowed_span(axis: Axis, y: Callable[[float], float]) -> tuple[float, float] | None:
    """From where to where every drawn limit allows, the upper end first; None without a limit."""
    if not axis.near:
        return None
    least = max(float(one.min) if one.min is not None else axis.bottom for one in axis.near)
    most = min(float(one.max) if one.max is not None else axis.top for one in axis.near)
    return (y(most), y(least)) if most > least else None
