"""The tests that are usual at a point: those of the last visit, else the programme's own."""

from collections.abc import Iterable, Sequence

from kessa.library.models import MethodUse, MethodVersion
from kessa.places.models import Point
from kessa.platform.models import Programme
from kessa.visits.models import Sample, TestAsked

MOST_OF_PROGRAMME = 5
"""So many of the programme's methods are offered where nothing was tested yet."""


def usual_tests(programme: Programme, points: Sequence[Point]) -> dict[int, tuple[str, ...]]:
    """The methods for each of these points, by its number. Empty where the programme has used none;
    a fixed number of queries."""
    last, own = last_tests(programme, points), _of_programme(programme)
    return {point.pk: tuple(last.get(point.pk, own)) for point in points}


def last_tests(programme: Programme, points: Iterable[Point]) -> dict[int, list[str]]:
    """The methods that were asked of the last sample taken at each of these points."""
    taken = Sample.objects.of(programme).filter(outcome=Sample.Outcome.TAKEN, point__in=points)
    newest = (
        taken.order_by("point_id", "-taken_at").distinct("point_id").values_list("pk", "point_id")
    )
    point_of = dict(newest)
    asked: dict[int, list[str]] = {}
    tests = TestAsked.objects.of(programme).filter(sample__in=point_of)
    for test in tests.exclude(state=TestAsked.State.CANCELLED).order_by("pk"):
        asked.setdefault(point_of[test.sample_id], []).append(test.method_id)
    return asked


def _of_programme(programme: Programme) -> list[str]:
    """Its most used methods, the most used first; where none was used, those in its library."""
    used = MethodUse.objects.of(programme).order_by("-count", "method_id")
    found = list(used.values_list("method_id", flat=True)[:MOST_OF_PROGRAMME])
    if found:
        return found
    newest = MethodVersion.objects.of(programme).newest().order_by("method_id")
    return list(newest.values_list("method_id", flat=True)[:MOST_OF_PROGRAMME])
