"""A visit: several tests chosen at once, and the page from which they are done."""

from collections.abc import Sequence
from datetime import UTC
from uuid import UUID

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone

from kessa.flows.choosing import tests_to_choose
from kessa.flows.testing import add_and_open
from kessa.flows.visit_plan import VisitPlan, plan_visit
from kessa.library.requests import wanted_versions
from kessa.library.test_choices import with_leading
from kessa.pages.visit.board import clocks_of, now_of, rows_of
from kessa.pages.visit.line import line_of
from kessa.places.models import Point
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.results.models import Result
from kessa.runs.models import Run
from kessa.ui.polling import code_of, has_seen, is_poll
from kessa.verdicts.models import Verdict
from kessa.verdicts.services import attach_verdicts
from kessa.visits import services
from kessa.visits.models import Sample, TestAsked, Visit

SHOWN_EVERY_S = 15
"""A page that is open is drawn again after so many seconds, also where nothing was done."""


@needs(Permission.TEST)
def choose(request: ProgrammeRequest, point_id: int) -> HttpResponse:
    """Several tests at a point; those of the last visit are ticked."""
    point = get_object_or_404(Point.objects.of(request.programme), pk=point_id)
    if request.method == "POST":
        versions = wanted_versions(request)
        if versions:
            ids = [version.method_id for version in versions]
            sample = services.begin(request.programme, request.user, point, *ids)
            return redirect("safety", request.programme.slug, sample.pk)
    return _choose(request, point, _last_tests(point))


def _choose(
    request: ProgrammeRequest, point: Point, ticked: Sequence[str], adding_to: int = 0
) -> HttpResponse:
    """The list of tests to tick; adding_to: the visit that they are added to."""
    groups = tests_to_choose(request.programme, request.user)
    context = {
        "point": point,
        "groups": with_leading("As last time", ticked, groups),
        "ticked": ticked,
        "adding_to": adding_to,
        "nothing_chosen": request.method == "POST",
    }
    status = 422 if request.method == "POST" else 200
    return render(request, "visit/choose_several.html", context, status=status)


def _last_tests(point: Point) -> list[str]:
    """The tests of the last sample that was taken here."""
    samples = Sample.objects.of(point.programme_id).filter(point=point)
    last = samples.filter(outcome=Sample.Outcome.TAKEN).order_by("-taken_at").first()
    if last is None:
        return []
    tests = TestAsked.objects.of(point.programme_id).filter(sample=last)
    return [test.method_id for test in tests if test.state != TestAsked.State.CANCELLED]


@needs(Permission.VIEW)
def visit(request: ProgrammeRequest, visit_id: int) -> HttpResponse:
    """What to do now, the clocks, the line, each test and its results."""
    found = get_object_or_404(Visit.objects.of(request.programme), pk=visit_id)
    code = _code(found)
    if has_seen(request, code):
        return HttpResponse(status=204)
    plan = plan_visit(found)
    results = _results(request, plan)
    template = "visit/board.html" if is_poll(request) else "visit/visit.html"
    return render(request, template, _board(request, found, plan, results) | {"code": code})


@needs(Permission.TEST)
def beside(request: ProgrammeRequest, visit_id: int, run_id: UUID) -> HttpResponse:
    """What the bench of one test shows of the others: their clocks, and what to do meanwhile."""
    found = get_object_or_404(Visit.objects.of(request.programme), pk=visit_id)
    code = _code(found)
    if has_seen(request, code):
        return HttpResponse(status=204)
    plan = plan_visit(found)
    if not any(one.run.pk == run_id for one in plan.tests):
        raise Http404
    context = _board(request, found, plan, ()) | {"here": run_id, "code": code}
    return render(request, "visit/beside.html", context)


@needs(Permission.TEST)
def add_tests(request: ProgrammeRequest, visit_id: int) -> HttpResponse:
    """More tests of the sample of this visit; those that it has already stay as they are."""
    samples = Sample.objects.of(request.programme).filter(visit=visit_id)
    sample = get_object_or_404(samples, outcome=Sample.Outcome.TAKEN)
    if request.method == "POST" and (versions := wanted_versions(request)):
        for version in versions:
            add_and_open(sample, request.user, version.method_id)
        return redirect("visit", request.programme.slug, visit_id)
    return _choose(request, sample.point, (), adding_to=visit_id)


def _code(found: Visit) -> str:
    """Another one whenever an act arrived, a result changed, or the plan may be drawn again."""
    runs = Run.objects.of(found.programme_id).filter(sample__visit=found)
    shown = Result.objects.of(found.programme_id).filter(run__in=runs.values("pk"))
    results = list(shown.order_by("pk").values_list("current_id", flat=True))
    now = int(timezone.now().timestamp()) // SHOWN_EVERY_S
    return code_of((runs.how_far(), results, now))


def _results(request: ProgrammeRequest, plan: VisitPlan) -> list[Result]:
    """The results of the tests that have ended, each with its verdicts."""
    ended = [one.run.pk for one in plan.tests if one.run.finish]
    results = list(
        Result.objects.of(request.programme)
        .select_related("current")
        .filter(run__in=ended)
        .order_by("pk")
    )
    attach_verdicts([one for one in results if one.current], Verdict.objects.of(request.programme))
    return results


def _board(
    request: ProgrammeRequest, found: Visit, plan: VisitPlan, results: Sequence[Result]
) -> dict[str, object]:
    at = timezone.localtime()
    clocks = clocks_of(plan)
    samples = list(Sample.objects.of(request.programme).filter(visit=found))
    return {
        "visit": found,
        "samples": samples,
        "plan": plan,
        "now": now_of(plan, clocks, at.astimezone(UTC)),
        "clocks": clocks,
        "line": line_of(plan, at) if plan.tests else None,
        "rows": rows_of(plan, results),
        "done": sum(bool(one.run.finish) for one in plan.tests),
    }
