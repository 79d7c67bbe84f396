"""What judging again by another limit set would change, before it is done."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from django.db import connection

from kessa.places.models import Point, Water
from kessa.results.models import Result
from kessa.verdicts.rejudging import (
    AT_ONCE,
    Attached,
    Period,
    evaluations_in,
    is_plain,
    judged_by_the_core,
    judged_in_sql,
    measured_at,
    periods_of,
)
from kessa_core.judging import Limit
from kessa_core.judging.context import PointContext
from kessa_core.quantities import Quantity

EXAMPLES = 5
COUNT = """
SELECT c.outcome_code, l.code, count(*),
    (array_agg(c.result ORDER BY c.sampled_at DESC))[1:5]
FROM led l JOIN candidates c ON c.id = l.id WHERE l.leads GROUP BY 1, 2
"""


@dataclass(frozen=True)
class Change:
    """How many results of a parameter would have another verdict, from which to which; some of
    them, the newest first."""

    quantity: Quantity
    before: str
    after: str
    count: int
    results: tuple[int, ...]


@dataclass(frozen=True)
class Preview:
    """What would change at a water, or at one point of it: of how many results."""

    water: Water
    point: Point | None
    total: int
    changes: tuple[Change, ...]

    @property
    def changing(self) -> int:
        """How many would have another verdict."""
        return sum(change.count for change in self.changes)


def preview(
    water: Water, key: str, valid_from: datetime | None, point: Point | None = None
) -> Preview:
    """What would change if the set with this key held at *water*, or at one *point* of it alone,
    from *valid_from* on (always, if None). Nothing is kept. Raises UnknownName."""
    before = periods_of(water)
    also = Attached(valid_from, key, point.pk if point else None)
    other = [
        one
        for one in periods_of(water, also)
        if one not in before
        and one.point == also.point
        and (valid_from is None or (one.begin and one.begin >= valid_from))
    ]
    total, found = 0, []
    for quantity, _ in measured_at(water):
        counted, results = _counted(other, quantity)
        total += sum(counted.values())
        found += [
            Change(quantity, was, now, count, tuple(results[was, now][:EXAMPLES]))
            for (was, now), count in counted.items()
            if was != now
        ]
    return Preview(water, point, total, tuple(sorted(found, key=lambda one: -one.count)))


def _counted(
    periods: Sequence[Period], quantity: Quantity
) -> tuple[Counter[tuple[str, str]], dict[tuple[str, str], list[int]]]:
    """How often each verdict would become which, and some results for each."""
    counted: Counter[tuple[str, str]] = Counter()
    results: dict[tuple[str, str], list[int]] = {}
    for period in periods:
        limits = period.held.of_all([quantity]) if period.held else ()
        context = PointContext(limits).of(quantity)
        applied = context.limits or context.others
        way = _in_sql if is_plain(context.limits, quantity) else _by_the_core
        for was, now, count, some in way(period, quantity, applied):
            counted[was, now] += count
            results.setdefault((was, now), []).extend(some)
    return counted, results


Counted = list[tuple[str, str, int, list[int]]]


def _in_sql(period: Period, quantity: Quantity, limits: Sequence[Limit]) -> Counted:
    statement, values = judged_in_sql(period, quantity, limits, COUNT)
    with connection.cursor() as cursor:
        cursor.execute(statement, values)
        return list(cursor.fetchall())


def _by_the_core(period: Period, quantity: Quantity, limits: Sequence[Limit]) -> Counted:
    numbers = [number for number, _ in evaluations_in(period, quantity)]
    found: dict[tuple[str, str], list[int]] = {}
    for at in range(0, len(numbers), AT_ONCE):
        some = numbers[at : at + AT_ONCE]
        results = Result.objects.of(period.water.programme_id).filter(current__in=some)
        outcomes = {r.current_id: (r.outcome_code, r.pk) for r in results}
        for evaluation, judged in judged_by_the_core(period.water.programme_id, some, limits):
            was, result = outcomes[evaluation.pk]
            found.setdefault((was, judged.code), []).append(result)
    return [(was, now, len(some), some[::-1]) for (was, now), some in found.items()]
