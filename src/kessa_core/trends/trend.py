"""Whether a quantity rises or falls over the years: a rank test by months, and the slope with its
interval."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations
from math import ceil, erfc, floor, sqrt
from statistics import median

from kessa_core.quantities import Interval
from kessa_core.trends.series import Earlier, one_a_day

FEWEST_DAYS, FEWEST_SPAN, FEWEST_PAIRS = 12, 360, 10
"""Days with a result, days from first to last, and pairs of the same month in different years,
below which nothing is said of a trend."""
SURE = 0.05
YEAR_S = 365.2425 * 86400
Z = 1.96


@dataclass(frozen=True)
class Trend:
    """The slope in the unit of the series a year, with its 95 % interval; p: how often chance alone
    would put the ranks so far in order; days: with a result; years: from first to last."""

    slope: float
    interval: Interval
    p: float
    days: int
    years: float

    @property
    def is_clear(self) -> bool:
        """Whether it rises or falls for sure: by the ranks, and by the slope's interval."""
        low, high = self.interval.low, self.interval.high
        one_side = low is not None and high is not None and (low > 0 or high < 0)
        return self.p < SURE and one_side


def trend(results: Iterable[Earlier]) -> Trend | None:
    """The trend of the *results* of one quantity at one place; None with fewer than twelve days of
    it, less than a year, or fewer than ten pairs of a month with the same month of another year.

    The seasonal Kendall test (Hirsch, Slack & Smith 1982, Water Resources Research 18, 107-121):
    each result is compared with those of the same month of other years alone, so that a season is
    no trend. The median of each month and year stands for it. A bound counts as lower (or higher)
    where it is so for sure, else as equal. The slope is the median of the pairs' slopes (Sen 1968),
    its interval that of Gilbert (1987, Statistical Methods for Environmental Pollution Monitoring,
    section 16.4); bounds take part with half of "<" and the figure of ">".
    """
    days = one_a_day(results)
    if len(days) < FEWEST_DAYS or (days[-1].at - days[0].at).days < FEWEST_SPAN:
        return None
    months = _by_month(days)
    pairs = [pair for one in months.values() for pair in combinations(one, 2)]
    if len(pairs) < FEWEST_PAIRS:
        return None
    slopes = sorted((_figure(b) - _figure(a)) / _years(a, b) for a, b in pairs)
    score = sum(_sign(a, b) for a, b in pairs)
    spread = sum(_variance(one) for one in months.values())
    if spread <= 0:
        return None
    near = score - 1 if score > 0 else score + 1 if score < 0 else 0
    p = erfc(abs(near) / sqrt(spread) / sqrt(2))
    reach = Z * sqrt(spread)
    low = max(0, floor((len(slopes) - reach) / 2) - 1)
    high = min(len(slopes) - 1, ceil((len(slopes) + reach) / 2))
    return Trend(
        median(slopes), Interval(slopes[low], slopes[high]), p, len(days),
        (days[-1].at - days[0].at).total_seconds() / YEAR_S,
    )  # fmt: skip


def _by_month(days: Sequence[Earlier]) -> dict[int, list[Earlier]]:
    """Of each month of the calendar one result a year, the oldest first: the middle one."""
    found: dict[tuple[int, int], list[Earlier]] = defaultdict(list)
    for one in days:
        found[one.at.month, one.at.year].append(one)
    months: dict[int, list[Earlier]] = defaultdict(list)
    for month, year in sorted(found):
        some = sorted(found[month, year], key=_figure)
        months[month].append(some[len(some) // 2])
    return months


def _figure(one: Earlier) -> float:
    return one.number / 2 if one.qualifier == "<" else one.number


def _years(earlier: Earlier, later: Earlier) -> float:
    return (later.at - earlier.at).total_seconds() / YEAR_S


def _sign(earlier: Earlier, later: Earlier) -> int:
    """1 where the later one is higher for sure, -1 where it is lower; 0 where that is not known."""
    if _surely_below(earlier, later):
        return 1
    return -1 if _surely_below(later, earlier) else 0


def _surely_below(one: Earlier, other: Earlier) -> bool:
    """Whether *one* is below *other* whatever their bounds hide."""
    if one.qualifier == ">" or other.qualifier == "<":
        return False
    if one.qualifier == "<" or other.qualifier == ">":
        return one.number <= other.number
    return one.number < other.number


def _variance(one: Sequence[Earlier]) -> float:
    """Of the score of one month, less what ties take away."""
    n = len(one)
    full = n * (n - 1) * (2 * n + 5)
    left = list(one)
    while left:
        first, *rest = left
        tied = [other for other in rest if _sign(first, other) == 0]
        t = len(tied) + 1
        full -= t * (t - 1) * (2 * t + 5)
        left = [other for other in rest if other not in tied]
    return full / 18
