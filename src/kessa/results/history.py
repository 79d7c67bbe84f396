"""The history of one quantity at a point, thinned where it is dense so that a chart can draw it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from django.db import connections

from kessa.platform.replica import reading_from
from kessa.results.models import LatestResult, Result, sign_of
from kessa.results.queries import EARLIER, REPORTABLE
from kessa_core.quantities import Interval
from kessa_core.quantities.rounding import figure
from kessa_core.trends.series import Earlier

MOST = 300
"""Results that a chart draws one by one; of more, the lowest and highest of each short while."""
STRETCHES = 80
"""Short whiles that a dense history is cut into, each some pixels wide."""

PAST = """
WITH past AS MATERIALIZED (
    SELECT r.id, date_part('epoch', r.sampled_at) AS at, e.number, e.low, e.high, r.outcome_code,
           e.qualifier, e.finish = 'done' AS counts
    FROM places_point p
    JOIN results_result r ON r.point_id = p.id
    JOIN results_evaluation e ON e.id = r.current_id
    WHERE p.programme_id = %(programme)s AND p.id = %(point)s
    AND r.parameter = %(parameter)s AND r.status = ANY(%(reportable)s)
    AND e.form = %(form)s AND e.basis = %(basis)s AND e.unit = %(unit)s AND e.number IS NOT NULL
)
"""
THINNED = """
, cut AS MATERIALIZED (
    SELECT past.*, width_bucket(at, first, last + 1, %(stretches)s) AS stretch,
           at IN (first, last) AS is_end
    FROM past, (SELECT min(at) AS first, max(at) AS last FROM past) ends
), drawn AS (
    (SELECT DISTINCT ON (stretch) * FROM cut ORDER BY stretch, number, id)
    UNION (SELECT DISTINCT ON (stretch) * FROM cut ORDER BY stretch, number DESC, id)
    UNION (SELECT * FROM cut WHERE is_end)
)
"""
SHOWN = """
SELECT at, number, low, high, outcome_code, qualifier, counts FROM {drawn} ORDER BY at, id
"""
"""Times as seconds since 1970, which the driver reads much faster than times."""


@dataclass(frozen=True)
class Past:
    """One result of the history: when, its number and range, and how it was judged then. qualifier:
    "<" or ">" where it is a bound; counts: it counts for what is usual."""

    at: datetime
    number: float
    low: float
    high: float
    code: str
    qualifier: str = ""
    counts: bool = True

    @property
    def sign(self) -> str:
        """The sign of its verdict."""
        return sign_of(self.code)

    def text(self, decimals: int) -> str:
        """The figure as printed; a bound is rounded outwards."""
        way = {"<": "up", ">": "down"}.get(self.qualifier, "half-up")
        return f"{self.qualifier} {figure(self.number, decimals, way)}".strip()

    def range_text(self, decimals: int) -> str:
        """Its 95 % range as printed; nothing of a bound."""
        return "" if self.qualifier else Interval(self.low, self.high).text(decimals)

    @property
    def as_core(self) -> Earlier:
        """The result as the core compares it."""
        return Earlier(self.at, self.number, self.qualifier, self.low, self.high)


def history_of(latest: LatestResult, most: int = MOST) -> list[Past]:
    """The reportable results of a quantity at a point, the oldest first.

    With more than *most* of them only the lowest and the highest of each of some equal stretches of
    time, and the first and the last: no peak and no gap is lost.
    """
    dense = latest.count > most
    shown = SHOWN.format(drawn="drawn" if dense else "past")
    statement = f"{PAST}{THINNED if dense else ''}{shown}"
    values: dict[str, Any] = {
        "programme": latest.programme_id,
        "point": latest.point_id,
        "parameter": latest.parameter,
        "form": latest.form,
        "basis": latest.basis,
        "unit": latest.unit,
        "reportable": list(REPORTABLE),
        "stretches": min(most // 2, STRETCHES),
    }
    with connections[reading_from()].cursor() as cursor:
        cursor.execute(statement, values)
        return [
            Past(
                datetime.fromtimestamp(at, UTC),
                number,
                low or 0.0,
                number if high is None else high,
                code or "none",
                qualifier,
                counts,
            )
            for at, number, low, high, code, qualifier, counts in cursor.fetchall()
        ]


def results_between(latest: LatestResult, first: datetime, last: datetime) -> list[Earlier]:
    """The results of a quantity at a point in a time, that count for what is usual."""
    results = Result.objects.of(latest.programme_id).at(latest.point_id).counting()
    same = results.of_parameter(latest.parameter).filter(
        current__form=latest.form,
        current__basis=latest.basis,
        current__unit=latest.unit,
        sampled_at__range=(first, last),
    )
    return [Earlier(*row) for row in same.order_by("sampled_at").values_list(*EARLIER)]


NEWEST = """
SELECT l.id, array_agg(past.number ORDER BY past.sampled_at)
FROM results_latestresult l CROSS JOIN LATERAL (
    SELECT r.sampled_at, e.number FROM results_result r
    JOIN results_evaluation e ON e.id = r.current_id
    WHERE r.point_id = l.point_id AND r.parameter = l.parameter
    AND r.status = ANY(%(reportable)s) AND e.number IS NOT NULL
    AND e.form = l.form AND e.basis = l.basis AND e.unit = l.unit
    ORDER BY r.sampled_at DESC LIMIT %(most)s
) past
WHERE l.programme_id = %(programme)s AND l.id = ANY(%(latest)s)
GROUP BY l.id
"""


def newest_numbers(
    programme_id: int, latest: Sequence[LatestResult], most: int = 60
) -> dict[int, list[float]]:
    """The numbers of the newest results of several quantities, the oldest first, by the id of
    their projection; in one query."""
    values: dict[str, Any] = {
        "programme": programme_id,
        "latest": [one.pk for one in latest],
        "reportable": list(REPORTABLE),
        "most": most,
    }
    with connections[reading_from()].cursor() as cursor:
        cursor.execute(NEWEST, values)
        return dict(cursor.fetchall())
