"""The place's own normal: the middle and the band of its history, by season where there is enough.

The band comes from the quarters of the history, not from its ends, so that a change that has begun
does not become usual at once. It is never narrower than what the readings themselves can tell.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from math import pi

import numpy as np

from kessa_core.quantities import Interval
from kessa_core.quantities.rounding import figure, span
from kessa_core.trends.quantiles import quantiles
from kessa_core.trends.series import Earlier, one_a_day

AS_USUAL = "as usual here"
"""How a value compares that lies in the usual range."""
A_LITTLE_ABOVE = "a little above the usual value"
NEEDED = 8
"""Fewer days with a result than this are no history yet."""
SEASONAL_DAYS, SEASONAL_SPAN, SEASONAL_QUARTER = 24, 330, 4
"""Days with a result, days from first to last, and days in each quarter of the year, below which
nothing is said of seasons."""
SEASONAL_GAIN = 0.8
"""A season is taken where it leaves at most this share of the scatter."""
TO_BAND = 1.645 / 0.6745
"""From the quarters of a normal distribution to its 5th and 95th percentile."""
ROUNDS = 20
"""Most rounds of weighing that a yearly wave is given to settle."""
YEAR_S = 365.2425 * 86400


@dataclass(frozen=True)
class Usual:
    """What is usual, in the unit of its series: the middle and the band of nine in ten. count: the
    days with a result that it rests on. seasonal: for this time of the year. is_entered: the
    programme entered it, since there is too little history yet."""

    count: int
    median: float
    band: Interval
    seasonal: bool = False
    is_entered: bool = False

    @property
    def mark(self) -> str:
        """What stands beside its figures where the programme entered them."""
        return " (entered, too little history yet)" if self.is_entered else ""

    @property
    def width(self) -> float:
        return (self.band.high or 0.0) - (self.band.low or 0.0)

    def holds(self, number: float) -> bool:
        """Whether *number* lies in the band, ends included."""
        return (self.band.low or 0.0) <= number <= (self.band.high or 0.0)

    def text(self, decimals: int) -> str:
        """The band as its ends: "205–245"."""
        return span(figure(self.band.low or 0, decimals), figure(self.band.high or 0, decimals))


@dataclass(frozen=True)
class Normal:
    """What a history says is usual, at any time of the year."""

    still: Usual
    wave: tuple[float, float, float] | None = None
    around: Usual | None = None
    lowest: float = 0.0

    def at(self, at: datetime) -> Usual:
        """What is usual at the time *at*."""
        if self.wave is None or self.around is None:
            return self.still
        level = _level(self.wave, at)
        ends = (self.around.band.low or 0.0, self.around.band.high or 0.0)
        low, high = (max(end + level, self.lowest) for end in ends)
        median = max(self.around.median + level, self.lowest)
        return Usual(self.still.count, median, Interval(low, high), seasonal=True)


def entered_usual(low: float, high: float) -> Usual:
    """A band that the programme entered, its middle taken as the median."""
    return Usual(0, (low + high) / 2, Interval(low, high), is_entered=True)


def normal(history: Iterable[Earlier], entered: Usual | None = None) -> Normal | None:
    """What is usual, from the *history* of one quantity at one place; with fewer than eight days of
    it what the programme *entered*, or None.

    The band reaches from the middle as far as the quarters say of nine in ten (2.44 times their
    distance, as in a normal distribution), each side by itself, and at least as far as the median
    doubt of a single result. With two dozen days or more over a year, and some in each quarter of
    it, a yearly wave is fitted by weighted least squares with Tukey's biweight (Beaton & Tukey
    1974), and taken where it leaves at most four fifths of the scatter.
    """
    days = one_a_day(history)
    if len(days) < NEEDED:
        return Normal(entered) if entered else None
    lowest = min(0.0, *(one.number for one in days))
    still = _band(days, lowest)
    wave = _wave(days)
    if wave is None:
        return Normal(still)
    rest = [replace(one, number=one.number - _level(wave, one.at)) for one in days]
    around = _band(rest, None)
    if around.width > SEASONAL_GAIN * still.width:
        return Normal(still)
    return Normal(still, wave, around, lowest)


def usual(history: Iterable[Earlier], at: datetime, entered: Usual | None = None) -> Usual | None:
    """What is usual at the time *at*; with fewer than eight days of history (see normal()) what was
    *entered*, or None."""
    found = normal(history, entered)
    return found.at(at) if found else None


def _band(days: Sequence[Earlier], lowest: float | None) -> Usual:
    """Middle and band of the days. lowest: what the quantity cannot fall below; None: no end."""
    lower, middle, upper = quantiles(days, (0.25, 0.5, 0.75))
    doubt = float(np.median([one.doubt for one in days]))
    unseen = max((one.number for one in days if one.qualifier == "<"), default=0.0)
    if upper is None:
        return Usual(len(days), unseen / 2, Interval(0.0, unseen))
    if middle is None:
        reach = max(TO_BAND * (upper - unseen / 2), doubt)
        return Usual(len(days), unseen / 2, Interval(0.0, unseen / 2 + reach))
    high = middle + max(TO_BAND * (upper - middle), doubt)
    low = 0.0 if lower is None else middle - max(TO_BAND * (middle - lower), doubt)
    return Usual(len(days), middle, Interval(low if lowest is None else max(low, lowest), high))


def _wave(days: Sequence[Earlier]) -> tuple[float, float, float] | None:
    """Level, cosine and sine of a yearly wave; None where there is too little to tell one."""
    if any(one.qualifier for one in days) or len(days) < SEASONAL_DAYS:
        return None
    if (days[-1].at - days[0].at).days < SEASONAL_SPAN:
        return None
    quarters = [0, 0, 0, 0]
    for one in days:
        quarters[(one.at.month - 1) // 3] += 1
    if min(quarters) < SEASONAL_QUARTER:
        return None
    parts = np.array([_parts(one.at) for one in days])
    numbers = np.array([one.number for one in days])
    found = np.array([float(np.median(numbers)), 0.0, 0.0])
    for _ in range(ROUNDS):
        rest = numbers - parts @ found
        scale = float(np.median(np.abs(rest))) / 0.6745
        if scale <= 0:
            break
        weights = np.clip(1 - (rest / (4.685 * scale)) ** 2, 0, None) ** 2
        root = np.sqrt(weights)[:, None]
        fitted, *_ = np.linalg.lstsq(parts * root, numbers * root[:, 0], rcond=None)
        if np.allclose(fitted, found, rtol=1e-6, atol=1e-9):
            break
        found = fitted
    level, cosine, sine = (float(part) for part in found)
    return level, cosine, sine


def _parts(at: datetime) -> tuple[float, float, float]:
    turn = 2 * pi * (at.timestamp() / YEAR_S)
    return 1.0, float(np.cos(turn)), float(np.sin(turn))


def _level(wave: tuple[float, float, float], at: datetime) -> float:
    return sum(size * part for size, part in zip(wave, _parts(at), strict=True))


def against(number: float, normal: Usual) -> str:
    """How *number* compares with what is usual at its point: "1.5 times the usual value"."""
    if normal.holds(number):
        return AS_USUAL
    if number > (normal.band.high or 0.0):
        ratio = number / normal.median if normal.median > 0 else 0
        return f"{ratio:.1f} times the usual value" if ratio >= 1.15 else A_LITTLE_ABOVE
    return "below the usual value"
