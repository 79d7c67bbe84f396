"""How the newest result of a quantity stands to the history of its place."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise
from statistics import median
from typing import Literal

from kessa_core.trends.series import Earlier, one_a_day
from kessa_core.trends.usual import Normal, Usual, normal

Side = Literal["", "above", "below"]
IN_A_ROW = 3
"""So many results outside the usual band on one side, and it is not chance any more."""
RISES = 3
EDGE = 0.02
"""A result so near to the band, as a share of its width, lies at its edge and not outside."""
YEAR = timedelta(days=365)
ABOUT = timedelta(days=45)
"""Results so near to a year ago count as a year ago; the newest ones within half of it as now."""
A_YEAR_NEEDS = 3
SLIPS = (10, 100, 1000)


@dataclass(frozen=True)
class YearAgo:
    """The middle of the results of these weeks a year ago and of the last ones now, and whether
    they are further apart than single results are doubtful."""

    before: float
    now: float
    differs: bool


@dataclass(frozen=True)
class News:
    """How the newest result stands. usual: of the results before it. side: on which side of the
    usual band it lies. since: the first day of the results without a break on that side, of which
    there are count. rises: how many results in a row rose to it (falls: below nought), where that
    is more than half of the usual band. slip: the power of ten (10, 0.01, ...) by which it would be
    usual, 0 where none is."""

    usual: Usual | None
    side: Side = ""
    since: datetime | None = None
    count: int = 0
    rises: int = 0
    slip: float = 0.0
    year_ago: YearAgo | None = None

    @property
    def lasts(self) -> bool:
        """Whether it has lain outside the usual band for too long to be chance."""
        return self.count >= IN_A_ROW


def news_of(results: Sequence[Earlier], entered: Usual | None = None) -> News:
    """How the newest of *results* (one quantity, one place, one unit) stands to the ones before it;
    while they are too few, to the usual that the programme *entered*.

    Raises ValueError without a result.
    """
    if not results:
        raise ValueError("There is no result.")
    newest = max(results, key=lambda one: one.at)
    before = [one for one in results if one is not newest]
    days = one_a_day(results)
    rises, year_ago = _rises(days), _year_ago(days)
    held = normal(before, entered)
    if held is None:
        return News(None, rises=rises, year_ago=year_ago)
    usual = held.at(newest.at)
    if rises and abs(_moved(days, rises)) < usual.width / 2:
        rises = 0
    side = side_of(newest, usual)
    row = _in_a_row(days, held, side) if side else []
    return News(
        usual,
        side,
        row[0].at if row else None,
        len(row),
        rises,
        _slip(newest, usual) if side and len(row) < IN_A_ROW else 0.0,
        year_ago,
    )


def side_of(one: Earlier, usual: Usual) -> Side:
    """On which side of the usual band a result lies for sure; "" inside, or where its bound says
    nothing of it."""
    room = EDGE * usual.width
    low, high = (usual.band.low or 0.0) - room, (usual.band.high or 0.0) + room
    if one.number > high and one.qualifier != "<":
        return "above"
    if one.number < low and one.qualifier != ">":
        return "below"
    return ""


def _in_a_row(days: Sequence[Earlier], held: Normal, side: Side) -> list[Earlier]:
    """The last results without a break that lie on this side, the oldest first."""
    row: list[Earlier] = []
    for one in reversed(days):
        if side_of(one, held.at(one.at)) != side:
            break
        row.append(one)
    return row[::-1]


def _rises(days: Sequence[Earlier]) -> int:
    """How many times in a row the last results rose, or fell (below nought); 0 unless there are
    three and the whole is more than single results are doubtful."""
    figures = [one for one in days if not one.qualifier]
    if len(figures) <= RISES:
        return 0
    steps = [later.number - sooner.number for sooner, later in pairwise(figures)]
    sign = 1 if steps[-1] > 0 else -1
    count = 0
    for step in reversed(steps):
        if step * sign <= 0:
            break
        count += 1
    first, last = figures[-1 - count], figures[-1]
    whole = abs(last.number - first.number)
    clear = whole > (last.doubt**2 + first.doubt**2) ** 0.5
    return sign * count if count >= RISES and clear else 0


def _moved(days: Sequence[Earlier], rises: int) -> float:
    """How far the last rises or falls led in all."""
    figures = [one for one in days if not one.qualifier]
    return figures[-1].number - figures[-1 - abs(rises)].number


def _slip(newest: Earlier, usual: Usual) -> float:
    """The power of ten that would make the number usual; a bound has none."""
    if newest.qualifier or newest.number <= 0 or usual.median <= 0:
        return 0.0
    for times in SLIPS:
        for factor in (1 / times, float(times)):
            if usual.holds(newest.number * factor):
                return factor
    return 0.0


def _year_ago(days: Sequence[Earlier]) -> YearAgo | None:
    """These weeks and the same ones a year ago; None where either has fewer than three figures, or
    the newest result is a mere bound."""
    if days[-1].qualifier:
        return None
    newest = days[-1].at
    figures = [one for one in days if not one.qualifier]
    now = [one for one in figures if newest - one.at <= ABOUT]
    before = [one for one in figures if abs(newest - one.at - YEAR) <= ABOUT]
    if len(now) < A_YEAR_NEEDS or len(before) < A_YEAR_NEEDS:
        return None
    was, is_ = (float(median(one.number for one in some)) for some in (before, now))
    doubt = max(one.doubt for one in (*now, *before))
    scatter = max(_scatter(now), _scatter(before))
    return YearAgo(was, is_, abs(is_ - was) > (doubt**2 + scatter**2) ** 0.5)


def _scatter(some: Sequence[Earlier]) -> float:
    """Half the distance of the highest and lowest."""
    numbers = [one.number for one in some]
    return (max(numbers) - min(numbers)) / 2
