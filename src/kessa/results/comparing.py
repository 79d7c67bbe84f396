"""Whether what pages read of results follows from evaluations and decisions."""

from collections.abc import Iterator
from typing import Any

from django.db.models import OuterRef, Subquery

from kessa.platform.models import Programme
from kessa.results.models import Evaluation, LatestResult, Result, Review
from kessa.results.projections import every_series, key_of, newest_of, standing
from kessa_core.records import Break

ASKED = (
    "pk", "stage", "current_id", "newest", "status", "waits_for", "run__finish", "current__finish",
    "decision", "decided", "point_id", "run__sample__point_id", "sampled_at",
    "run__sample__taken_at", "parameter", "current__parameter",
)  # fmt: skip


def differing(programme: Programme) -> Iterator[Break]:
    """Results whose state, sample or current evaluation, and newest results whose figures, do not
    follow from what was kept."""
    for row in _with_expected(programme).values_list(*ASKED).iterator(chunk_size=2000):
        held = dict(zip(ASKED, row, strict=True))
        if wrong := list(_wrong(held)):
            yield Break(
                0, f"result:{held['pk']} does not follow from its record: {', '.join(wrong)}"
            )
    yield from _latest(programme)


def _with_expected(programme: Programme) -> Any:
    of_result = {"programme": programme, "result": OuterRef("pk")}
    evaluations = Evaluation._base_manager.filter(**of_result).order_by("-pk")
    reviews = Review._base_manager.filter(**of_result).order_by("-pk")
    return Result._base_manager.filter(programme=programme).annotate(
        newest=Subquery(evaluations.values("pk")[:1]),
        decision=Subquery(reviews.values("decision")[:1]),
        decided=Subquery(reviews.values("evaluation_id")[:1]),
    )


def _wrong(held: dict[str, Any]) -> Iterator[str]:
    """The columns of a result that say something else than its record."""
    decision = held["decision"] if held["decided"] == held["newest"] else ""
    ended = standing(held["run__finish"], held["current__finish"] or "", decision or "")
    if (held["status"], held["waits_for"]) != ended:
        yield "status"
    if held["newest"] is None or held["current_id"] != held["newest"]:
        yield "current"
    if held["point_id"] != held["run__sample__point_id"]:
        yield "point"
    if held["sampled_at"] != held["run__sample__taken_at"]:
        yield "sampled_at"
    if held["parameter"] != held["current__parameter"]:
        yield "parameter"


def _latest(programme: Programme) -> Iterator[Break]:
    """The newest results, each against what its series makes of it."""
    kept = {
        (one.point_id, one.parameter, one.form, one.basis, one.unit): one
        for one in LatestResult.objects.of(programme)
    }
    for series in every_series(programme):
        expected = newest_of(series)
        found = kept.pop(tuple(key_of(series).values())[1:], None)
        if expected is None or found is None:
            yield Break(0, f"point:{series.point}: the newest {series.quantity} is missing")
        elif any(getattr(found, name) != value for name, value in expected.items()):
            yield Break(0, f"point:{series.point}: the newest {series.quantity} is another one")
    for point, parameter, *_ in kept:
        yield Break(0, f"point:{point}: there is no result of {parameter} in this unit")
