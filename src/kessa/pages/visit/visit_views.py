"""A visit: several tests chosen at once, and the page from which they are done."""

from collections.abc import Sequence
from datetime import UTC
from uuid import UUID

from django.db.models import Q
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from kessa.flows.choosing import tests_to_choose
from kessa.flows.desk import end_unfinished
from kessa.flows.testing import add_and_open, begin_ready
from kessa.flows.usual_tests import last_tests
from kessa.flows.visit_acts import decide_between
from kessa.flows.visit_end import summary_of
from kessa.flows.visit_plan import VisitPlan, delay, plan_visit, planned_order, share_work
from kessa.library.requests import wanted_versions
from kessa.library.test_choices import with_leading
from kessa.pages.visit.board import clocks_of, late_of, now_of, points_of, rows_of
from kessa.pages.visit.line import line_of
from kessa.pages.visit.questions import questions_of
from kessa.pages.visit.seen import seen_in
from kessa.places.models import Point
from kessa.platform.days import day_text
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.platform.typed import one_line
from kessa.results.models import Result
from kessa.runs.models import Run
from kessa.ui.polling import code_of, has_seen, is_poll
from kessa.ui.row_number import row_number
from kessa.verdicts.models import Verdict
from kessa.verdicts.services import attach_verdicts
from kessa.visits.models import BenchPlan, Sample, Visit, VisitEvent
from kessa.visits.services import Asked

SHOWN_EVERY_S = 15
"""A page that is open is drawn again after so many seconds, also where nothing was done."""


@needs(Permission.TEST)
def choose(request: ProgrammeRequest, point_id: int) -> HttpResponse:
    """Several tests at a point; those of the last visit are ticked."""
    point = get_object_or_404(Point.objects.of(request.programme), pk=point_id)
    if request.method == "POST":
        versions = wanted_versions(request)
        if versions:
            ids = tuple(version.method_id for version in versions)
            made = begin_ready(request.programme, request.user, [Asked(point, ids)])
            sample = Sample.objects.of(request.programme).get(visit=made)
            return redirect("safety", request.programme.slug, sample.pk)
    last = last_tests(request.programme, [point]).get(point.pk, [])
    return _choose(request, point, last)


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
def on_this_device(request: ProgrammeRequest) -> HttpResponse:
    """What stands in for any page without a network: the visits that this device keeps."""
    return render(request, "visit/on_this_device.html")


@needs(Permission.TEST)
def add_tests(request: ProgrammeRequest, visit_id: int) -> HttpResponse:
    """More tests of a sample of this visit (?sample=, else the first that was taken); those that
    it has already stay as they are."""
    samples = Sample.objects.of(request.programme).filter(visit=visit_id)
    taken = samples.filter(outcome=Sample.Outcome.TAKEN).order_by("pk")
    if wanted := row_number(request.GET.get("sample", "")):
        taken = taken.filter(pk=wanted)
    sample = taken.first()
    if sample is None:
        raise Http404
    if request.method == "POST" and (versions := wanted_versions(request)):
        for version in versions:
            add_and_open(sample, request.user, version.method_id)
        return redirect("visit", request.programme.slug, visit_id)
    return _choose(request, sample.point, (), adding_to=visit_id)


@require_POST
@needs(Permission.TEST)
def people(request: ProgrammeRequest, visit_id: int) -> HttpResponse:
    """One person does the work of a visit, or two share it."""
    found = get_object_or_404(Visit.objects.of(request.programme), pk=visit_id)
    share_work(found, 2 if request.POST.get("people") == "2" else 1)
    return redirect("visit", request.programme.slug, found.pk)


@require_POST
@needs(Permission.TEST)
def delay_test(request: ProgrammeRequest, visit_id: int, run_id: UUID) -> HttpResponse:
    """A test that would be late is late, and the others keep their times; or that is undone."""
    runs = Run.objects.of(request.programme).unfinished().filter(sample__visit=visit_id)
    run = get_object_or_404(runs, pk=run_id)
    delay(run.sample.visit, run, wanted="undo" not in request.POST)
    return redirect("visit", request.programme.slug, visit_id)


@require_POST
@needs(Permission.TEST)
def leave_out(request: ProgrammeRequest, visit_id: int, run_id: UUID) -> HttpResponse:
    """A test that would be late is not done; why is kept."""
    runs = Run.objects.of(request.programme).unfinished().filter(sample__visit=visit_id)
    run = get_object_or_404(runs, pk=run_id)
    end_unfinished(run, request.user, "left out: it would have been too late")
    return redirect("visit", request.programme.slug, visit_id)


@require_POST
@needs(Permission.TEST)
def decide(request: ProgrammeRequest, visit_id: int, event_id: int) -> HttpResponse:
    """Which of two records of a sample holds."""
    open_ones = VisitEvent.objects.of(request.programme).undecided().filter(visit=visit_id)
    beside = get_object_or_404(open_ones, pk=event_id)
    why = one_line(request.POST.get("why", ""), 240)
    decide_between(beside, request.user, request.POST.get("keep") == "second", why)
    return redirect("visit", request.programme.slug, visit_id)


def _code(found: Visit) -> str:
    """Another one whenever an act arrived, a result changed, or the plan may be drawn again."""
    runs = Run.objects.of(found.programme_id).filter(sample__visit=found)
    shown = Result.objects.of(found.programme_id).filter(run__in=runs.values("pk"))
    results = list(shown.order_by("pk").values_list("current_id", flat=True))
    samples = Sample.objects.of(found.programme_id).filter(visit=found).order_by("pk")
    taken = list(samples.values_list("pk", "outcome", "safe", "context_at"))
    told = VisitEvent.objects.of(found.programme_id).filter(visit=found)
    shared = BenchPlan.objects.of(found.programme_id).filter(visit=found, people__gt=1)
    taken += list(shared.values_list("people"))
    taken += list(told.filter(Q(beside=True) | Q(kind__in=("ended", "photo"))).values_list("pk"))
    now = int(timezone.now().timestamp()) // SHOWN_EVERY_S
    return code_of((runs.how_far(), results, taken, now))


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
    told = list(VisitEvent.objects.of(request.programme).end_and_photographs_of(found))
    ended = next((event for event in told if event.kind == VisitEvent.Kind.ENDED), None)
    samples = list(
        Sample.objects.of(request.programme)
        .filter(visit=found)
        .exclude(outcome=Sample.Outcome.CANCELLED)
        .prefetch_related("tests")
        .order_by("pk")
    )
    rows = rows_of(plan, results)
    to_come = [sample for sample in samples if sample.outcome == Sample.Outcome.OPEN]
    to_keep = [one.run for one in plan.under_way]
    if to_come and not ended:
        every = Run.objects.of(request.programme).of_visit(found.pk).filter(finish="")
        to_keep = planned_order(found, list(every))
    return {
        "visit": found,
        "at": at,
        "samples": samples,
        "to_come": to_come,
        "points": points_of(samples, rows, to_keep),
        "visit_id": found.pk,
        "visit_name": _name(found, samples),
        "capability_run": to_keep[0].pk if to_keep else None,
        "carried": _carried(found),
        "plan": plan,
        "now": now_of(plan, clocks, at.astimezone(UTC)),
        "others": [
            now_of(plan, clocks, at.astimezone(UTC), person) for person in range(2, plan.people + 1)
        ],
        "late": late_of(plan),
        "clocks": clocks,
        "line": line_of(plan, at) if plan.tests else None,
        "rows": rows,
        "ended": ended,
        "questions": questions_of(found),
        "seen": seen_in(found, told),
        "summary": summary_of(found) if ended else None,
        "done": sum(bool(one.run.finish) for one in plan.tests),
    }


def _name(found: Visit, samples: Sequence[Sample]) -> str:
    """What the visit is called on a device that keeps it."""
    where = str(found.set or (samples[0].point if samples else "Visit"))
    return f"{where}, {day_text(found.begun_at)}"


def _carried(found: Visit) -> list[str]:
    """The acts of devices that this page knows already."""
    sent = VisitEvent.objects.of(found.programme_id).filter(visit=found)
    return list(sent.exclude(sent_id=None).values_list("sent_id", flat=True))
