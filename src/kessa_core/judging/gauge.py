"""The gauge's geometry: everything as a share (0 to 1) of the scale's length."""

from collections.abc import Sequence
from dataclasses import dataclass

from kessa_core.judging.comparing import Sign
from kessa_core.judging.limits import Limit
from kessa_core.quantities import Interval, Value

HEADROOM = 1.6
"""The scale ends this many times above the limit it is drawn for."""


@dataclass(frozen=True)
class Gauge:
    """tint: the allowed side. ticks: limits. mark: the reported value; whisker: its interval.

    over: the value lies off the scale's upper end; the mark becomes an arrow there.
    """

    top: float
    tint: tuple[float, float] | None
    ticks: tuple[float, ...]
    usual: tuple[float, float] | None
    mark: float | None
    whisker: tuple[float, float] | None
    over: bool
    sign: Sign
    words: str


def scale(limits: Sequence[Limit], reach: float) -> float:
    """The scale's upper end for a value that reaches up to *reach* (in the limits' unit)."""
    ends = [float(limit.max or limit.min or 0) for limit in limits]
    tops = sorted(end * HEADROOM for end in ends if end > 0)
    if not tops:
        return max(reach * HEADROOM, 1e-9)
    return next((top for top in tops if top >= reach), tops[-1])


def gauge(
    value: Value | None,
    limits: Sequence[Limit],
    sign: Sign,
    words: str,
    usual: Interval | None = None,
    top: float | None = None,
) -> Gauge:
    """The gauge of *value* (in the limits' basis and unit) on a scale from zero.

    Without *top* the scale is chosen so that the interval fits, if a limit's scale can hold it.
    """
    reach = 0.0
    if value is not None:
        reach = value.interval.high or value.number
    end = top or scale(limits, max(reach, (usual.high or 0.0) if usual else 0.0))

    def share(number: float) -> float:
        return min(max(number / end, 0.0), 1.0)

    maxima = [float(limit.max) for limit in limits if limit.max]
    minima = [float(limit.min) for limit in limits if limit.min]
    tint = (share(minima[0]) if minima else 0.0, share(min(maxima)) if maxima else 1.0)
    mark = whisker = None
    over = False
    if value is not None:
        mark = share(value.number)
        over = value.number > end
        high = end if value.interval.high is None else value.interval.high
        whisker = (share(value.interval.low or 0.0), share(high))
    return Gauge(
        end,
        tint if maxima or minima else None,
        tuple(share(number) for number in (*minima, *maxima) if number <= end),
        (share(usual.low or 0.0), share(usual.high or end)) if usual else None,
        mark,
        whisker,
        over,
        sign,
        words,
    )
