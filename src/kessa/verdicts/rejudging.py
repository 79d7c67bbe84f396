"""Judging many evaluations again: in SQL where a limit is a plain number in the value's own unit,
in the core by batches elsewhere. tests/web/test_judging_again.py holds the two ways equal."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from django.db import connection
from django.db.models import Sum

from kessa.places.limit_sets import find_sets
from kessa.places.models import LimitAttachment, Point, Water
from kessa.places.services import key_at
from kessa.platform import clock
from kessa.results.models import Evaluation, LatestResult
from kessa.verdicts.measured import for_each_sample
from kessa.verdicts.models import Verdict
from kessa.verdicts.services import Judgement, judge_value, judged_limits, new_round
from kessa_core import VERSION
from kessa_core.judging import Limit, LimitSet
from kessa_core.judging.context import PointContext
from kessa_core.judging.limits import DECIDED_BY
from kessa_core.quantities import Quantity

AT_ONCE = 2000


@dataclass(frozen=True)
class Period:
    """The time during which the same limits applied at a water, or at one part of it; None: without
    an end there, or at every part. months: in which; empty: all. point: at which alone; without:
    those points that have limits of their own."""

    water: Water
    held: LimitSet | None
    begin: datetime | None
    end: datetime | None
    part: str | None = None
    months: tuple[int, ...] = ()
    point: int | None = None
    without: tuple[int, ...] = ()

    @property
    def where(self) -> tuple[str, list[Any]]:
        """Its results, as a condition on results_result r."""
        said = (
            "r.programme_id = %s "
            "AND r.point_id IN (SELECT id FROM places_point WHERE water_id = %s)"
        )
        values: list[Any] = [self.water.programme_id, self.water.pk]
        if self.point is not None:
            said += " AND r.point_id = %s"
            values.append(self.point)
        if self.without:
            said += " AND NOT r.point_id = ANY(%s)"
            values.append(list(self.without))
        if self.part is not None:
            said += " AND r.point_id IN (SELECT id FROM places_point WHERE part = %s)"
            values.append(self.part)
        for operator, moment in ((">=", self.begin), ("<", self.end)):
            if moment is not None:
                said += f" AND r.sampled_at {operator} %s"
                values.append(moment)
        if self.months:
            said += " AND extract(month FROM r.sampled_at AT TIME ZONE %s) = ANY(%s)"
            values += [self.water.programme.timezone, list(self.months)]
        return said, values


@dataclass(frozen=True)
class Attached:
    """From when on a set holds, at a point alone or (None) at a water."""

    valid_from: datetime | None
    limit_set: str
    point: int | None = None


def periods_of(water: Water, also: Attached | None = None) -> list[Period]:
    """The periods of a water, and of each point that has limits of its own, from its attachments;
    where two begin together the later one made holds. *also*: one more, as if it were made last."""
    attached = LimitAttachment.objects.of(water.programme_id).at_water(water).order_by("pk")
    made = [Attached(one.valid_from, one.limit_set, one.point_id) for one in attached]
    made += [also] if also else []
    held = find_sets(water.programme_id, {one.limit_set for one in made} - NO_SETS)
    own = tuple(sorted({one.point for one in made if one.point is not None}))
    found = []
    for point in (None, *own):
        begun = _begun(made, point)
        ends = [*(at for at, _ in begun[1:]), None]
        for (at, key), end in zip(begun, ends, strict=True):
            without = () if point is not None else own
            found.append(Period(water, held.get(key), at, end, point=point, without=without))
    return [part for period in found for part in _of_one_kind(period)]


NO_SETS = {"", LimitAttachment.OF_ITS_WATER}


def _begun(made: Sequence[Attached], point: int | None) -> list[tuple[datetime | None, str]]:
    """From when on which set holds at a point (None: at those without their own)."""
    about = [one for one in made[::-1] if one.point is None or one.point == point]
    about.sort(key=_from, reverse=True)
    moments = sorted({one.valid_from for one in about}, key=lambda at: (at is not None, at))
    found = []
    for moment in moments:
        latest = [
            (one.point, one.limit_set)
            for one in about
            if one.valid_from is None or (moment is not None and one.valid_from <= moment)
        ]
        found.append((moment, key_at(latest, point)))
    return found


def _from(one: Attached) -> tuple[bool, datetime]:
    """By when it begins; what has always held comes first."""
    return one.valid_from is not None, one.valid_from or datetime.min.replace(tzinfo=UTC)


def _of_one_kind(whole: Period) -> list[Period]:
    """A period apart by the days on which another of its limits holds, by season where some are for
    months only, and by part of the water where its limits tell parts apart."""
    held, water = whole.held, whole.water
    if held is None:
        return [whole]
    there = ZoneInfo(water.programme.timezone)
    turns = [datetime.combine(day, time(), there) for day in held.turns]
    inside = [
        turn
        for turn in turns
        if (whole.begin is None or whole.begin < turn) and (whole.end is None or turn < whole.end)
    ]
    begins = [whole.begin, *inside]
    parts: list[str | None] = [None]
    if held.tells_parts_apart:
        points = Point.objects.of(water.programme_id).filter(water=water)
        parts = list(points.order_by("part").values_list("part", flat=True).distinct())
    return [
        Period(
            water,
            held.holding(
                _day_in(begin, end, there),
                part or "",
                water.known_traits,
                months[0] if months else 0,
            ),
            begin,
            end,
            part,
            months,
            whole.point,
            whole.without,
        )
        for begin, end in zip(begins, [*inside, whole.end], strict=True)
        for part in parts
        for months in held.seasons or ((),)
    ]


def _day_in(begin: datetime | None, end: datetime | None, there: ZoneInfo) -> date:
    """A day of a period during which no limit of its set begins or ends."""
    if begin is not None:
        return begin.astimezone(there).date()
    return date.max if end is None else (end - timedelta(microseconds=1)).astimezone(there).date()


def measured_at(water: Water) -> list[tuple[Quantity, int]]:
    """What was measured at a water and how often, from the projection of its newest results."""
    latest = LatestResult.objects.of(water.programme_id).filter(point__water=water)
    columns = ("parameter", "form", "basis", "unit")
    counted = latest.order_by(*columns).values_list(*columns).annotate(Sum("count"))
    return [(Quantity(*row[:4]), row[4]) for row in counted]


def judge_again(period: Period, quantity: Quantity, batch: str, by: int | None) -> int:
    """Insert a new round of verdicts wherever the newest one says something else; how many
    evaluations were judged again."""
    context = PointContext(period.held.of_all([quantity]) if period.held else ()).of(quantity)
    limits = context.limits or context.others
    way = _in_sql if is_plain(context.limits, quantity) else _by_the_core
    return way(period, quantity, limits, batch, by)


def is_plain(limits: Iterable[Limit], quantity: Quantity) -> bool:
    """Whether SQL can judge values of a quantity by all of these limits."""
    return all(_is_plain(limit, quantity) for limit in limits)


def _is_plain(limit: Limit, quantity: Quantity) -> bool:
    return (
        (limit.basis, limit.unit) == (quantity.basis, quantity.unit)
        and limit.rounding == "as reported"
        and limit.statistic not in DECIDED_BY
        and limit.formula is None
    )


def _in_sql(
    period: Period, quantity: Quantity, limits: Sequence[Limit], batch: str, by: int | None
) -> int:
    also = "" if limits else WITH_A_LIMIT_ONCE
    statement, values = judged_in_sql(period, quantity, limits, KEEP, also)
    with connection.cursor() as cursor:
        cursor.execute(statement, [*values, clock.now(), by, VERSION, batch])
        return int(cursor.fetchone()[0])


WITH_A_LIMIT_ONCE = """
    AND (
        EXISTS (
            SELECT FROM verdicts_verdict v WHERE v.evaluation_id = e.id AND v.limit_id IS NOT NULL
        ) OR NOT EXISTS (SELECT FROM verdicts_verdict v WHERE v.evaluation_id = e.id)
    )
"""
"""Where there is no limit now: only what was judged by one, or not at all, can change."""


def judged_in_sql(
    period: Period, quantity: Quantity, limits: Sequence[Limit], then: str, also: str = ""
) -> tuple[str, list[Any]]:
    """A statement that judges the values of a period by these limits and goes on with *then*, which
    reads them as led (id, place, judged, code, reported_code, leads); and its parameters. *also*:
    one more condition on the evaluation e."""
    where, values = period.where
    rows, bounds = _bounds(period, quantity, limits)
    values += [quantity.parameter, quantity.form, quantity.basis, quantity.unit, *bounds]
    return JUDGE.format(where=where, also=also, bounds=rows, **PIECES) + then, values


def _bounds(period: Period, quantity: Quantity, limits: Sequence[Limit]) -> tuple[str, list[Any]]:
    """The limits as rows of VALUES: order, row of the limit, least and most; without bounds where
    a limit cannot be applied, and one row without a limit where there is none."""
    if not limits or period.held is None:
        return "(1, NULL::bigint, NULL::float8, NULL::float8)", []
    rows, values = [], []
    applicable = PointContext(tuple(limits)).of(quantity).limits
    kept = judged_limits(period.water.programme_id, period.held, limits)
    for order, limit in enumerate(limits, 1):
        least: Any = float(limit.min) if limit.min is not None else float("-inf")
        most: Any = float(limit.max) if limit.max is not None else float("inf")
        if limit not in applicable:
            least = most = None
        rows.append("(%s, %s::bigint, %s::float8, %s::float8)")
        values += [order, kept[limit].pk, least, most]
    return ", ".join(rows), values


def _of_range(low: str, high: str, qualifier: str) -> str:
    """kessa_core.judging.comparing.of_range in SQL."""
    return (
        f"CASE WHEN {low} > l.most OR ({qualifier} = '>' AND {low} >= l.most) "
        f"OR {high} < l.least OR ({qualifier} = '<' AND {high} <= l.least) THEN 'beyond' "
        f"WHEN l.least <= {low} AND {high} <= l.most THEN 'within' ELSE 'close' END"
    )


_TWO_SIDED = "c.low IS NOT NULL AND c.high IS NOT NULL"
_LOW = f"coalesce(least(c.low, CASE WHEN {_TWO_SIDED} THEN c.bracket_low END), '-Infinity')"
_HIGH = f"coalesce(greatest(c.high, CASE WHEN {_TWO_SIDED} THEN c.bracket_high END), 'Infinity')"
PIECES = {
    "interval": _of_range(_LOW, _HIGH, "c.qualifier"),
    "sure": _of_range(
        "coalesce(c.sure_low, '-Infinity')", "coalesce(c.sure_high, 'Infinity')", "c.qualifier"
    ),
    "bracket": _of_range("c.bracket_low", "c.bracket_high", "''"),
    "above": _of_range("c.reported::float8", "'Infinity'::float8", "'>'"),
    "below": _of_range("'-Infinity'::float8", "c.reported::float8", "'<'"),
}
JUDGE = """
WITH candidates AS (
    SELECT e.id, e.programme_id, e.qualifier, e.low, e.high, e.bracket_low, e.bracket_high,
        e.one_sided, e.sure_low, e.sure_high, e.reported, r.sampled_at, r.id AS result,
        r.outcome_code
    FROM results_result r JOIN results_evaluation e ON e.id = r.current_id
    WHERE {where} AND e.number IS NOT NULL
    AND r.parameter = %s AND e.form = %s AND e.basis = %s AND e.unit = %s {also}
), judged AS (
    SELECT c.id, c.programme_id, c.sampled_at, l.place, l.judged,
        CASE WHEN l.least IS NULL THEN 'none'
            WHEN c.one_sided AND {interval} <> {sure} THEN 'close'
            ELSE {interval} END AS code,
        CASE WHEN l.least IS NULL THEN 'none'
            WHEN c.bracket_low IS NOT NULL AND c.bracket_high IS NOT NULL THEN {bracket}
            WHEN c.qualifier = '>' THEN {above}
            WHEN c.qualifier = '<' THEN {below}
            WHEN c.reported > l.most::numeric OR c.reported < l.least::numeric THEN 'beyond'
            ELSE 'within' END AS reported_code
    FROM candidates c CROSS JOIN (VALUES {bounds}) AS l(place, judged, least, most)
), led AS (
    SELECT j.*, j.place = l.leader AS leads
    FROM judged j JOIN (
        SELECT id, coalesce(
            max(place) FILTER (WHERE code = 'beyond'),
            min(place) FILTER (WHERE code = 'close'),
            min(place) FILTER (WHERE code = 'within'),
            min(place)) AS leader
        FROM judged GROUP BY id
    ) l ON l.id = j.id
)
"""
KEEP = """
, newest AS (
    SELECT v.evaluation_id, v.round, string_agg(
        concat_ws(' ', v.limit_id, v.code, v.reported_code, v.leads), ',' ORDER BY v.limit_id
    ) AS said
    FROM candidates c
    CROSS JOIN LATERAL (
        SELECT max(round) AS round FROM verdicts_verdict WHERE evaluation_id = c.id
    ) last
    JOIN verdicts_verdict v ON v.evaluation_id = c.id AND v.round = last.round
    GROUP BY v.evaluation_id, v.round
), wanted AS (
    SELECT id, string_agg(
        concat_ws(' ', judged, code, reported_code, leads), ',' ORDER BY judged
    ) AS said
    FROM led GROUP BY id
), anew AS (
    SELECT w.id, coalesce(s.round, 0) + 1 AS round
    FROM wanted w LEFT JOIN newest s ON s.evaluation_id = w.id
    WHERE s.said IS DISTINCT FROM w.said
), inserted AS (
    INSERT INTO verdicts_verdict (
        programme_id, evaluation_id, limit_id, round, leads, code, reported_code, in_force_at,
        judged_at, judged_by_id, core_version, sentences, usual, batch)
    SELECT l.programme_id, l.id, l.judged, a.round, l.leads, l.code, l.reported_code,
        l.sampled_at, %s, %s, %s, '[]', NULL, %s
    FROM led l JOIN anew a ON a.id = l.id
    RETURNING leads
)
SELECT count(*) FILTER (WHERE leads) FROM inserted
"""


def _by_the_core(
    period: Period, quantity: Quantity, limits: Sequence[Limit], batch: str, by: int | None
) -> int:
    """The same by the core, for limits that need a conversion or are computed by a formula."""
    found = evaluations_in(period, quantity)
    return sum(
        _insert_batch(period, dict(found[at : at + AT_ONCE]), limits, batch, by)
        for at in range(0, len(found), AT_ONCE)
    )


def evaluations_in(period: Period, quantity: Quantity) -> list[tuple[int, datetime]]:
    """The current evaluations of a quantity in a period, each with its sampling time."""
    where, values = period.where
    values += [quantity.parameter, quantity.form, quantity.basis, quantity.unit]
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT e.id, r.sampled_at FROM results_result r "  # noqa: S608
            f"JOIN results_evaluation e ON e.id = r.current_id WHERE {where} "
            "AND e.number IS NOT NULL AND r.parameter = %s AND e.form = %s AND e.basis = %s "
            "AND e.unit = %s ORDER BY e.id",
            values,
        )
        return list(cursor.fetchall())


def _insert_batch(
    period: Period, sampled: dict[int, datetime], limits: Sequence[Limit], batch: str,
    by: int | None,
) -> int:  # fmt: skip
    """*sampled*: when each evaluation's sample was taken."""
    programme = period.water.programme_id
    judged = judged_by_the_core(programme, sampled, limits)
    against = {one.limit for _, judgement in judged for one in judgement.verdicts if one.limit}
    kept = judged_limits(programme, period.held, against)
    newest = Verdict.objects.of(programme).newest_rounds(sampled)
    rounds = [
        new_round(one, judgement, kept, newest[one.pk], sampled[one.pk])
        for one, judgement in judged
    ]
    rows = [row for some in rounds for row in some]
    for row in rows:
        row.judged_by_id, row.batch = by, batch
    Verdict.objects.bulk_create(rows, batch_size=AT_ONCE)
    return sum(1 for some in rounds if some)


def judged_by_the_core(
    programme: int, sampled: Iterable[int], limits: Sequence[Limit]
) -> list[tuple[Evaluation, Judgement]]:
    """These evaluations, each judged by the limits as they are for its sample."""
    evaluations = Evaluation.objects.of(programme).filter(pk__in=list(sampled)).order_by("pk")
    computed = any(limit.formula for limit in limits)
    if computed:
        evaluations = evaluations.select_related("result__run__sample__point")
    with_value = [(one, value) for one in evaluations if (value := one.value)]
    own: Iterable[Sequence[Limit]] = [limits] * len(with_value)
    if computed:
        own = for_each_sample(limits, [one.result.run.sample for one, _ in with_value])
    return [
        (one, judge_value(value, PointContext(tuple(some)).of(value.quantity)))
        for (one, value), some in zip(with_value, own, strict=True)
    ]


def follow(programme: int, batch: str, by: int | None) -> tuple[int, int]:
    """Bring the results that a batch of verdicts judged up to date: their outcome, and back to
    review where a decided one changed. How many changed, and how many went back."""
    with connection.cursor() as cursor:
        cursor.execute(FOLLOW, [programme, batch, by, clock.now(), batch])
        changed, reopened = cursor.fetchone()
    return int(changed), int(reopened)


FOLLOW = """
WITH changed AS (
    SELECT r.id, r.programme_id, r.current_id, r.status, v.code
    FROM verdicts_verdict v JOIN results_result r ON r.current_id = v.evaluation_id
    WHERE v.programme_id = %s AND v.batch = %s AND v.leads AND r.outcome_code <> v.code
), reopened AS (
    INSERT INTO results_review (
        programme_id, result_id, evaluation_id, by_id, at, decision, reason, batch)
    SELECT programme_id, id, current_id, %s, %s, 'reopened', 'compared with the new limits', %s
    FROM changed WHERE status = 'reviewed'
    RETURNING id, result_id
), updated AS (
    UPDATE results_result r SET outcome_code = c.code,
        status = CASE WHEN c.status = 'reviewed' THEN 'provisional' ELSE r.status END,
        waits_for = CASE WHEN c.status = 'reviewed' THEN 'reviewer' ELSE r.waits_for END
    FROM changed c WHERE r.id = c.id
    RETURNING r.id
)
SELECT (SELECT count(*) FROM updated), (SELECT count(*) FROM reopened)
"""
