"""What pages read of results: a result's own state, and the newest of each quantity at a point.

Written in the transaction that inserts, and rebuilt from the facts by the same functions.
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from kessa.platform.locks import lock_until_commit
from kessa.platform.models import Programme
from kessa.results.models import EnteredUsual, LatestResult, Result, Review
from kessa.results.queries import EARLIER
from kessa_core.quantities import Quantity
from kessa_core.trends.news import News, news_of
from kessa_core.trends.series import Earlier
from kessa_core.trends.usual import NEEDED, Usual

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
    about = last.decision if last and newest and last.evaluation_id == newest.pk else ""
    how = newest.finish if newest else ""
    result.status, result.waits_for = standing(run.finish, how, about)
    result.save()


def standing(finish: str, how: str, decision: str) -> tuple[Result.Status, Result.WaitsFor]:
    """How a result stands: finish of its run, how its current evaluation says it ended, and the
    last decision about that; each empty where there is none."""
    if not finish or how == "awaiting":
        return S.AWAITING, W.NOBODY
    return AFTER[D(decision)] if decision else (S.PROVISIONAL, W.REVIEWER)


def series_of(result: Result) -> Series | None:
    """The series that a result belongs to; None while it has no figure."""
    current = result.current
    if current is None or current.number is None:
        return None
    return Series(result.programme_id, result.point_id, current.quantity)


def every_series(programme: Programme) -> Iterator[Series]:
    """Every quantity at a point of which there is a reportable figure."""
    counted = Result.objects.of(programme).reportable().filter(current__number__isnull=False)
    columns = ("point_id", "parameter", "current__form", "current__basis", "current__unit")
    for point, *quantity in counted.order_by().values_list(*columns).distinct():
        yield Series(programme.pk, point, Quantity(*quantity))


def bring_up(programme: Programme) -> None:
    """Rebuild the newest results that a release made before it said how they stand."""
    older = LatestResult.objects.of(programme).filter(news={})
    columns = ("point_id", "parameter", "form", "basis", "unit")
    found = [
        Series(programme.pk, point, Quantity(*quantity))
        for point, *quantity in older.values_list(*columns)
    ]
    with transaction.atomic():
        refresh_latest(found)


def refresh_latest(touched: Iterable[Series | None]) -> None:
    """Rebuild the newest result of each of these series."""
    for series in sorted({s for s in touched if s}, key=lambda s: (s.point, str(s.quantity))):
        lock_until_commit(f"{series.point} {series.quantity}")
        _refresh(series)


def _refresh(series: Series) -> None:
    key, newest = key_of(series), newest_of(series)
    if newest is None:
        LatestResult.objects.filter(**key).delete()
    else:
        LatestResult.objects.update_or_create(**key, defaults=newest)


def key_of(series: Series) -> dict[str, Any]:
    """The columns that name a series."""
    quantity = series.quantity
    return {
        "programme_id": series.programme,
        "point_id": series.point,
        "parameter": quantity.parameter,
        "form": quantity.form,
        "basis": quantity.basis,
        "unit": quantity.unit,
    }


def newest_of(series: Series) -> dict[str, Any] | None:
    """The other columns: the newest result and what was usual before it; None without a result."""
    quantity = series.quantity
    results = Result.objects.of(series.programme).filter(
        point_id=series.point,
        parameter=quantity.parameter,
        current__form=quantity.form,
        current__basis=quantity.basis,
        current__unit=quantity.unit,
        current__number__isnull=False,
    )
    rows = results.reportable().newest_first().values_list("pk", "current__finish", *EARLIER)
    history = [(pk, finish, Earlier(*row)) for pk, finish, *row in rows]
    if not history:
        return None
    newest, _, first = history[0]
    counting = [one for _, finish, one in history[1:] if finish == "done"]
    found = news_of([first, *counting], _entered(series, counting))
    normal = found.usual
    return {
        "result_id": newest,
        "sampled_at": first.at,
        "count": len(history),
        "usual_low": normal.band.low if normal else None,
        "usual_median": normal.median if normal else None,
        "usual_high": normal.band.high if normal else None,
        "usual_count": normal.count if normal else 0,
        "usual_seasonal": normal.seasonal if normal else False,
        "usual_entered": normal.is_entered if normal else False,
        "unusual": bool(found.side),
        "moving": bool(found.rises) or bool(found.year_ago and found.year_ago.differs),
        "news": _as_data(found),
    }


def _entered(series: Series, history: Sequence[Earlier]) -> Usual | None:
    """What was entered as usual, where the history is too short to say."""
    if len({one.at.date() for one in history}) >= NEEDED:
        return None
    key = {name: value for name, value in key_of(series).items() if name != "programme_id"}
    kept = EnteredUsual.objects.of(series.programme).filter(**key).standing().first()
    return kept.as_core if kept else None


def _as_data(found: News) -> dict[str, Any]:
    """News as they are kept, without what is usual."""
    year = found.year_ago
    return {
        "side": found.side,
        "since": found.since.isoformat() if found.since else None,
        "count": found.count,
        "rises": found.rises,
        "slip": found.slip,
        "year_ago": [year.before, year.now, year.differs] if year else None,
    }
