"""The history of one quantity at a point, thinned where it is dense so that a chart can draw it."""

from dataclasses import dataclass
from datetime import datetime

from django.db.models import F, FloatField, Func, Q, Value, Window
from django.db.models.functions import Extract, RowNumber

from kessa.results.models import LatestResult, Result
from kessa.results.queries import ResultQuery

MOST = 400
"""Results that a chart draws one by one; of more, the lowest and highest of each short while."""


@dataclass(frozen=True)
class Past:
    """One result of the history: when, its number and range, and how it was judged then."""

    at: datetime
    number: float
    low: float
    high: float
    code: str


def history_of(latest: LatestResult, most: int = MOST) -> list[Past]:
    """The standing results of a quantity at a point, the oldest first.

    With more than *most* of them only the lowest and the highest of each of *most* / 2 equal
    stretches of time, and the first and the last: no peak and no gap is lost.
    """
    results = Result.objects.of(latest.programme_id).filter(
        point_id=latest.point_id,
        parameter=latest.parameter,
        current__form=latest.form,
        current__basis=latest.basis,
        current__unit=latest.unit,
        current__number__isnull=False,
    )
    results = results.standing().order_by("sampled_at", "pk")
    if latest.count > most:
        results = _thinned(results, most // 2, latest.sampled_at)
    columns = ("sampled_at", "current__number", "current__low", "current__high", "outcome_code")
    return [
        Past(at, number, low or 0.0, number if high is None else high, code or "none")
        for at, number, low, high, code in results.values_list(*columns)
    ]


def _thinned(results: ResultQuery, stretches: int, last: datetime) -> ResultQuery:
    first = results.values_list("sampled_at", flat=True)[0]
    begin, end = first.timestamp(), last.timestamp() + 1.0
    stretch = Func(
        Extract("sampled_at", "epoch", output_field=FloatField()),
        Value(begin),
        Value(end),
        Value(stretches),
        function="width_bucket",
        output_field=FloatField(),
    )
    number = F("current__number")
    ranked = results.annotate(
        lowest=Window(RowNumber(), partition_by=[stretch], order_by=[number.asc(), "pk"]),
        highest=Window(RowNumber(), partition_by=[stretch], order_by=[number.desc(), "pk"]),
    )
    ends = Q(sampled_at__in=[first, last])
    found: ResultQuery = ranked.filter(Q(lowest=1) | Q(highest=1) | ends)
    return found
