"""Before and after something happened at a place, alone and against its comparison point."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from math import sqrt
from statistics import fmean, variance

from scipy.special import stdtrit

from kessa_core.quantities import Interval
from kessa_core.trends.series import Earlier, one_a_day

FEWEST = 3
"""Fewer days than this on either side carry no difference."""
DAYS = 60
"""How far before and after something the results are taken, unless it is said otherwise."""


@dataclass(frozen=True)
class Change:
    """How much higher it was after than before (below nought: lower), with its 95 % interval;
    before, after: the days with a figure on each side. bounds: days left out for a mere bound."""

    by: float
    interval: Interval
    before: int
    after: int
    bounds: int = 0

    @property
    def is_clear(self) -> bool:
        """Whether the interval leaves nought out."""
        return not self.interval.holds(0.0)


@dataclass(frozen=True)
class TooFew:
    """No difference can be told: how many days there are before and after."""

    before: int
    after: int


def change_at(
    results: Sequence[Earlier],
    event: datetime,
    days: int = DAYS,
    until: datetime | None = None,
) -> Change | TooFew:
    """The difference between the results of *days* days from *event* on and those of as many days
    before it (one unit, one place). until: where something else happened that ends the time after.

    The means of both sides, their difference with the interval of Welch (1947, Biometrika 34,
    28-35) at 95 %; the variance of each side at least that of the doubt of its results, so that
    equal readings do not look surer than a kit is.
    """
    span = timedelta(days=days)
    every = [one for one in one_a_day(results) if abs(one.at - event) <= span]
    sides = [
        [one for one in every if one.at < event],
        [one for one in every if event <= one.at and (until is None or one.at < until)],
    ]
    before, after = ([one for one in side if not one.qualifier] for side in sides)
    if len(before) < FEWEST or len(after) < FEWEST:
        return TooFew(len(before), len(after))
    bounds = sum(len(side) for side in sides) - len(before) - len(after)
    return _welch(before, after, bounds)


def differences(own: Sequence[Earlier], other: Sequence[Earlier]) -> list[Earlier]:
    """Own less other on each day that has a figure of both, with the interval of the difference.

    The doubts of the two are added as independent ones (root of the sum of squares). What both
    share, such as a bottle's own drop, would cancel in part: the interval is wide rather than
    narrow.
    """
    beside = {one.at.date(): one for one in one_a_day(other) if not one.qualifier}
    made = []
    for one in one_a_day(own):
        pair = beside.get(one.at.date())
        if pair is None or one.qualifier:
            continue
        number, half = one.number - pair.number, sqrt(one.doubt**2 + pair.doubt**2)
        made.append(Earlier(one.at, number, "", number - half, number + half))
    return made


def _welch(before: Sequence[Earlier], after: Sequence[Earlier], bounds: int) -> Change:
    parts = [(_variance(side) / len(side), len(side)) for side in (before, after)]
    error = sum(part for part, _ in parts)
    by = fmean(one.number for one in after) - fmean(one.number for one in before)
    if error == 0:
        return Change(by, Interval(by, by), len(before), len(after), bounds)
    freedom = error**2 / sum(part**2 / (count - 1) for part, count in parts)
    half = float(stdtrit(freedom, 0.975)) * sqrt(error)
    return Change(by, Interval(by - half, by + half), len(before), len(after), bounds)


def _variance(side: Sequence[Earlier]) -> float:
    own = fmean((one.doubt / 1.96) ** 2 for one in side)
    return max(variance(one.number for one in side), own)
