"""The statistic that a limit is about, from the samples of a water.

What it comes to, how many of its samples there are, and what is missing. A screening: the rule asks
for approved methods and analysts.
"""

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from statistics import fmean
from typing import Literal

from kessa_core.judging.limits import Limit
from kessa_core.judging.statistics import FEWEST_RANKED, QUARTERS, percentile_90
from kessa_core.quantities import Value
from kessa_core.quantities.rounding import at_figures_of, figure

Sign = Literal["within", "beyond", "close"]
HALF_YEAR, YEAR = timedelta(days=183), timedelta(days=365)
CONFIRMED_WITHIN = timedelta(days=14)
SHARE_NEEDED = 0.95
MEANS = {
    "long-term mean": YEAR,
    "30-day mean": timedelta(days=30),
    "4-day mean": timedelta(days=4),
}
"""Means over a time up to the newest sample."""


@dataclass(frozen=True)
class DatedValue:
    """A value with the day of its sample."""

    day: date
    value: Value


@dataclass(frozen=True)
class Compliance:
    """What a statistic comes to, in the unit of its limit. low, high: the same where every "<" is
    taken as nought, and as its figure; equal without one. have, needed: its samples (or quarters,
    or months). missing: what it still needs, in a sentence, empty where nothing is."""

    limit: Limit
    about: str
    have: int
    needed: int
    first: date
    last: date
    low: float | None = None
    high: float | None = None
    missing: str = ""

    @property
    def sign(self) -> Sign | None:
        """On which side of the limit it lies, rounded as the rule says; None without a figure."""
        if self.low is None or self.high is None:
            return None
        beyond = [_is_beyond(number, self.limit) for number in (self.low, self.high)]
        if all(beyond):
            return "beyond"
        return "close" if any(beyond) else "within"

    @property
    def text(self) -> str:
        """The figure with its unit: "0.016 mg/L as Pb", "0–0.02"; nothing without one."""
        if self.low is None or self.high is None:
            return ""
        if self.limit.statistic == "monthly share":
            return f"{100 * self.low:.0f} %"
        decimals = _decimals(self.limit) + 1
        ends = dict.fromkeys(figure(number, decimals) for number in (self.low, self.high))
        return f"{'–'.join(ends)} {self.limit.quantity.label}".rstrip()


def compliance(limit: Limit, samples: Sequence[DatedValue]) -> Compliance | None:
    """The statistic of *limit* from the samples of one water, up to the newest one.

    None where each sample is compared by itself, or there is no sample that can be converted.
    Sources: 40 CFR 141.80(c)(3) (90th percentile; of fewer than five the highest), 141.133
    (running annual average of quarters, each of its monthly means; two days in a row; sets of
    three), 141.23 (mean with the confirmation), 141.173 (share of a month).
    """
    work = _OF.get(limit.statistic)
    usable = sorted(samples, key=lambda one: one.day)
    if work is None or not usable:
        return None
    return work(limit, [(one.day, _ends(one.value, limit)) for one in usable])


Row = tuple[date, tuple[float, float]]


def _ends(value: Value, limit: Limit) -> tuple[float, float]:
    """The number of a value in the limit's unit, as low and as high as its qualifier allows."""
    number = value.converted(basis=limit.basis, unit=limit.unit).number
    return (0.0 if value.qualifier == "<" else number), number


def _is_beyond(number: float, limit: Limit) -> bool:
    if limit.statistic == "monthly share":
        return number < SHARE_NEEDED
    if limit.max is not None:
        if limit.rounding == "figures of the limit":
            exact = Decimal(repr(round(number, 12)))
            return at_figures_of(exact, limit.max) > Decimal(limit.max)
        return number > float(limit.max)
    return limit.min is not None and number < float(limit.min)


def _decimals(limit: Limit) -> int:
    _, _, behind = str(limit.max or limit.min).partition(".")
    return len(behind)


def _after(rows: Sequence[Row], span: timedelta) -> list[Row]:
    """The rows of the time up to the newest one."""
    newest = rows[-1][0]
    return [row for row in rows if newest - row[0] < span]


def _percentile(limit: Limit, rows: Sequence[Row]) -> Compliance:
    kept = _after(rows, HALF_YEAR)
    lacking = FEWEST_RANKED - len(kept)
    said = f"{lacking} more of five samples are needed." if lacking > 0 else ""
    low, high = (percentile_90([row[1][at] for row in kept]) for at in (0, 1))
    first, last = kept[0][0], kept[-1][0]
    about = f"90th percentile of {_count(len(kept), 'sample')} of half a year"
    return Compliance(limit, about, len(kept), FEWEST_RANKED, first, last, low, high, said)


def _running_average(limit: Limit, rows: Sequence[Row]) -> Compliance:
    newest = _quarter(rows[-1][0])
    wanted = [_back(newest, back) for back in range(QUARTERS)][::-1]
    held = {quarter: [row for row in rows if _quarter(row[0]) == quarter] for quarter in wanted}
    missing = [_quarter_words(quarter) for quarter, some in held.items() if not some]
    first, last = _first_day(wanted[0]), rows[-1][0]
    about = "running annual average of four quarters"
    have = QUARTERS - len(missing)
    if missing:
        said = f"No sample in {' and '.join(missing)}."
        return Compliance(limit, about, have, QUARTERS, first, last, missing=said)
    low, high = (fmean(_of_months(some, at) for some in held.values()) for at in (0, 1))
    return Compliance(limit, about, have, QUARTERS, first, last, low, high)


def _of_months(rows: Sequence[Row], at: int) -> float:
    """The mean of the monthly means."""
    months: dict[int, list[float]] = defaultdict(list)
    for row in rows:
        months[row[0].month].append(row[1][at])
    return fmean(fmean(some) for some in months.values())


def _share(limit: Limit, rows: Sequence[Row]) -> Compliance:
    newest = rows[-1][0]
    kept = [row for row in rows if (row[0].year, row[0].month) == (newest.year, newest.month)]
    single = [not _is_single_beyond(row[1][1], limit) for row in kept]
    share = sum(single) / len(single)
    about = f"share of the {_count(len(kept), 'sample')} of {newest:%B %Y} that lie within"
    return Compliance(limit, about, len(kept), 1, kept[0][0], newest, share, share)


def _is_single_beyond(number: float, limit: Limit) -> bool:
    return limit.max is not None and number > float(limit.max)


def _confirmed(limit: Limit, rows: Sequence[Row]) -> Compliance:
    kept = _after(rows, CONFIRMED_WITHIN)[-2:]
    return _mean_of(limit, kept, 2, "mean of a sample and its confirmation", "A second sample")


def _three(limit: Limit, rows: Sequence[Row]) -> Compliance:
    kept = [row for row in rows if row[0] == rows[-1][0]]
    return _mean_of(limit, kept, 3, "mean of the three samples of a day", "Three samples of a day")


def _mean_of(
    limit: Limit, kept: Sequence[Row], needed: int, about: str, missing: str
) -> Compliance:
    first, last = kept[0][0], kept[-1][0]
    if len(kept) < needed:
        said = f"{missing} are needed." if needed > 2 else f"{missing} is needed."
        return Compliance(limit, about, len(kept), needed, first, last, missing=said)
    low, high = (fmean(row[1][at] for row in kept) for at in (0, 1))
    return Compliance(limit, about, len(kept), needed, first, last, low, high)


def _two_days(limit: Limit, rows: Sequence[Row]) -> Compliance:
    """The lower of two days that follow one another: above only where both are."""
    newest = rows[-1][0]
    days = {row[0]: row for row in rows}
    before = days.get(newest - timedelta(days=1))
    about = "samples of two days in a row, the lower one"
    if before is None:
        said = "The sample of the day before is needed."
        return Compliance(limit, about, 1, 2, newest, newest, missing=said)
    low, high = (min(before[1][at], days[newest][1][at]) for at in (0, 1))
    return Compliance(limit, about, 2, 2, before[0], newest, low, high)


def _mean(limit: Limit, rows: Sequence[Row]) -> Compliance:
    kept = _after(rows, MEANS[limit.statistic])
    low, high = (fmean(row[1][at] for row in kept) for at in (0, 1))
    about = f"mean of {_count(len(kept), 'sample')}"
    said = "One sample is no mean." if len(kept) == 1 else ""
    return Compliance(limit, about, len(kept), 2, kept[0][0], kept[-1][0], low, high, said)


Quarter = tuple[int, int]


def _quarter(day: date) -> Quarter:
    return day.year, (day.month - 1) // 3 + 1


def _back(quarter: Quarter, back: int) -> Quarter:
    year, number = quarter
    whole = year * 4 + number - 1 - back
    return whole // 4, whole % 4 + 1


def _first_day(quarter: Quarter) -> date:
    return date(quarter[0], quarter[1] * 3 - 2, 1)


def _quarter_words(quarter: Quarter) -> str:
    names = ("first", "second", "third", "fourth")
    return f"the {names[quarter[1] - 1]} quarter of {quarter[0]}"


def _count(number: int, what: str) -> str:
    return f"{number} {what}{'' if number == 1 else 's'}"


_OF: dict[str, Callable[[Limit, Sequence[Row]], Compliance]] = {
    "90th percentile": _percentile,
    "running annual average": _running_average,
    "monthly share": _share,
    "mean of the sample and its confirmation": _confirmed,
    "mean of three samples": _three,
    "two days in a row": _two_days,
    **dict.fromkeys(MEANS, _mean),
}
