"""The place's own normal: median and 5-95 % band of its history."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from kessa_core.quantities import Interval
from kessa_core.quantities.rounding import figure

AS_USUAL = "as usual here"
"""How a value compares that lies in the usual range."""
A_LITTLE_ABOVE = "a little above the usual value"
NEEDED = 8
"""Fewer results than this are no history yet."""


@dataclass(frozen=True)
class Usual:
    """Median and 5-95 % band of *count* results, in their unit."""

    count: int
    median: float
    band: Interval

    def holds(self, number: float) -> bool:
        """Whether *number* lies in the band, ends included."""
        return (self.band.low or 0.0) <= number <= (self.band.high or 0.0)

    def text(self, decimals: int) -> str:
        return f"{figure(self.band.low or 0, decimals)}–{figure(self.band.high or 0, decimals)}"


def usual(numbers: Sequence[float]) -> Usual | None:
    """What is usual among *numbers* (one unit), or None with fewer than eight.

    Quantiles: linear interpolation between order statistics (Hyndman & Fan 1996, type 7).
    """
    if len(numbers) < NEEDED:
        return None
    low, median, high = np.quantile(np.asarray(numbers, dtype=float), [0.05, 0.5, 0.95])
    return Usual(len(numbers), float(median), Interval(float(low), float(high)))


def against(number: float, normal: Usual) -> str:
    """How *number* compares with what is usual at its point: "1.5 times the usual value"."""
    if normal.holds(number):
        return AS_USUAL
    if number > (normal.band.high or 0.0):
        ratio = number / normal.median if normal.median > 0 else 0
        return (
            f"{ratio:.1f} times the usual value"
            if ratio >= 1.15
            else "a little above the usual value"
        )
    return "below the usual value"
