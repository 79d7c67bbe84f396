"""What pages read of results: a result's own state, and the newest of each quantity at a point.

Written in the transaction that inserts, and made anew from the facts by the same functions.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.db import connection

from kessa.results.models import LatestResult, Result, Review
from kessa_core.quantities import Quantity
from kessa_core.trends.usual import usual

D, S, W = Review.Decision, Result.Status, Result.WaitsFor
AFTER = {
    D.ACCEPT: (S.REVIEWED, W.NOBODY),
    D.RETURN: (S.PROVISIONAL, W.ANALYST),
    D.REJECT: (S.REJECTED, W.NOBODY),
    D.ANSWER: (S.PROVISIONAL, W.REVIEWER),
    D.REOPENED: (S.PROVISIONAL, W.REVIEWER),
}
"""How a result stands after the last decision about its current evaluation."""


@dataclass(frozen=True)
class Series:
    """One quantity at one point."""

    programme: int
    point: int
    quantity: Quantity


def project(result: Result) -> None:
    """Make the result's state from its run, its evaluations and its decisions, and save it."""
    run = result.run
    newest = result.evaluations.order_by("-pk").first()
    last = result.reviews.order_by("-pk").first()
    result.current = newest
    result.point_id, result.sampled_at = run.sample.point_id, run.sample.sampled_at
    result.status, result.waits_for = S.PROVISIONAL, W.REVIEWER
    if not run.finish:
        result.status, result.waits_for = S.AWAITING, W.NOBODY
    elif last and newest and last.evaluation_id == newest.pk:
        result.status, result.waits_for = AFTER[D(last.decision)]
    result.save()


def series_of(result: Result) -> Series | None:
    """The series that a result belongs to; None while it has no figure."""
    current = result.current
    if current is None or current.number is None:
        return None
    return Series(result.programme_id, result.point_id, current.quantity)


def refresh_latest(touched: Iterable[Series | None]) -> None:
    """Make the newest result of each of these series anew."""
    for series in sorted({s for s in touched if s}, key=lambda s: (s.point, str(s.quantity))):
        _lock(series)
        _refresh(series)


def _lock(series: Series) -> None:
    """One transaction at a time makes a series; it holds until the transaction ends."""
    with connection.cursor() as cursor:
        key = f"{series.point} {series.quantity}"
        cursor.execute("SELECT pg_advisory_xact_lock(hashtextextended(%s, 0))", [key])


def _refresh(series: Series) -> None:
    quantity = series.quantity
    results = Result.objects.of(series.programme).filter(
        point_id=series.point,
        parameter=quantity.parameter,
        current__form=quantity.form,
        current__basis=quantity.basis,
        current__unit=quantity.unit,
        current__number__isnull=False,
    )
    columns = ("pk", "sampled_at", "current__number", "current__qualifier", "current__finish")
    history = list(results.reportable().newest_first().values_list(*columns))
    key: dict[str, Any] = {
        "programme_id": series.programme,
        "point_id": series.point,
        "parameter": quantity.parameter,
        "form": quantity.form,
        "basis": quantity.basis,
        "unit": quantity.unit,
    }
    if not history:
        LatestResult.objects.filter(**key).delete()
        return
    newest, sampled_at, number, qualifier, _ = history[0]
    normal = usual([one[2] for one in history[1:] if one[4] == "done"])
    LatestResult.objects.update_or_create(
        **key,
        defaults={
            "result_id": newest,
            "sampled_at": sampled_at,
            "count": len(history),
            "usual_low": normal.band.low if normal else None,
            "usual_median": normal.median if normal else None,
            "usual_high": normal.band.high if normal else None,
            "usual_count": normal.count if normal else 0,
            "unusual": normal is not None and not qualifier and not normal.holds(number),
        },
    )
