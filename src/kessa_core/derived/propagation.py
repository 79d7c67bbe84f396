"""The interval of a function of several values that were measured independently of each other."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import ceil, inf, isfinite, log10, sqrt
from typing import Protocol

from kessa_core.quantities import Interval


class Uncertain(Protocol):
    """What has a figure and a range, such as a Value."""

    @property
    def number(self) -> float: ...
    @property
    def interval(self) -> Interval: ...
    @property
    def qualifier(self) -> str: ...
    @property
    def bracket(self) -> tuple[float, float] | None: ...


Function = Callable[..., float]


@dataclass(frozen=True)
class Carried:
    """The function at the values' figures, and its interval. low, high may be infinite."""

    number: float
    low: float
    high: float


def carry(function: Function, values: Sequence[Uncertain]) -> Carried:
    """*function* of the numbers of *values*, in their order, each in the unit it expects.

    Each value is moved alone to both ends of its interval; what the function moves by, up and down,
    is added up as independent parts are, by squares. A value known only as a bound or a bracket has
    no figure to move from: what the function does over all that it allows is added in full. Raises
    what the function raises.

    Source: one-at-a-time propagation after Kragten 1994 (Analyst 119:2161), with unequal sides.
    """
    middle = [_figure(value) for value in values]
    number = function(*middle)
    down = up = 0.0
    sure_down = sure_up = 0.0
    for at, value in enumerate(values):
        ends = [function(*middle[:at], end, *middle[at + 1 :]) for end in _ends(value)]
        below, above = number - min(*ends, number), max(*ends, number) - number
        if value.qualifier or value.bracket:
            sure_down, sure_up = sure_down + below, sure_up + above
        else:
            down, up = down + below**2, up + above**2
    return Carried(number, number - sure_down - sqrt(down), number + sure_up + sqrt(up))


def decimals_for(width: float, most: int, finer: int = 0) -> int:
    """Decimals whose step is a tenth of half a range's width or more, *finer* of them beyond that,
    and at most *most*."""
    if width <= 0 or width == inf:
        return most
    return min(most, max(0, finer + ceil(-log10(width / 2))))


def interval_of(carried: Carried) -> Interval:
    """Its interval; a side that is not bounded is None."""
    return Interval(
        carried.low if isfinite(carried.low) else None,
        carried.high if isfinite(carried.high) else None,
    )


def _figure(value: Uncertain) -> float:
    """What stands for the value: its figure; of a bracket or a bound below, the middle of what it
    allows; of a bound above, the bound."""
    if value.bracket:
        return sum(value.bracket) / 2
    if value.qualifier == "<":
        return ((value.interval.low or 0.0) + value.number) / 2
    return value.number


def _ends(value: Uncertain) -> tuple[float, float]:
    """Both ends of what a value allows."""
    low, high = value.interval.low, value.interval.high
    if value.bracket:
        low = min(value.bracket[0], value.bracket[0] if low is None else low)
        high = max(value.bracket[1], value.bracket[1] if high is None else high)
    if value.qualifier == "<":
        low = low or 0.0
    return (-inf if low is None else low, inf if high is None else high)
