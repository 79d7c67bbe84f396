"""The end of a visit: finishing it, its report, and its sheet in the order of the work."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone

from kessa.flows.visit_end import NOT_DONE, finish_visit, summary_of
from kessa.pages.visit.reasons import reasons_of, thermometer_of
from kessa.pages.visit.seen import seen_on
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.platform.typed import one_line
from kessa.runs.models import Run
from kessa.runs.services import events_of_each
from kessa.visits.models import Visit, VisitEvent
from kessa_core.describing.acts import acts_of


def _found(request: ProgrammeRequest, visit_id: int) -> Visit:
    found: Visit = get_object_or_404(Visit.objects.of(request.programme), pk=visit_id)
    return found


@needs(Permission.TEST)
def end(request: ProgrammeRequest, visit_id: int) -> HttpResponse:
    """What is still out, what to rinse, where the waste goes; then the visit is handed over."""
    found = _found(request, visit_id)
    if request.method == "POST":
        note = one_line(request.POST.get("note", ""), 500)
        reasons, thermometer = reasons_of(request.POST), thermometer_of(request.POST)
        finish_visit(found, request.user, reasons, note, thermometer=thermometer)
        return redirect("visit-report", request.programme.slug, found.pk)
    summary = summary_of(found)
    context = {
        "visit": found,
        "summary": summary,
        "reasons": NOT_DONE,
        "waste": [(one, request.programme.waste.get(one.route)) for one in summary.waste],
    }
    return render(request, "visit/end.html", context)


@needs(Permission.VIEW)
def report(request: ProgrammeRequest, visit_id: int) -> HttpResponse:
    """The visit on one page, in plain words, for those who asked for it."""
    found = _found(request, visit_id)
    ended = VisitEvent.objects.of(request.programme).filter(visit=found, kind="ended").first()
    context = {
        "visit": found,
        "summary": summary_of(found),
        "ended": ended,
        "seen": seen_on(found),
        "now": timezone.localtime(),
    }
    return render(request, "visit/report.html", context)


@needs(Permission.VIEW)
def sheet(request: ProgrammeRequest, visit_id: int) -> HttpResponse:
    """Everything that was done, in the order of the work."""
    found = _found(request, visit_id)
    runs = list(Run.objects.of(request.programme).of_visit(found.pk))
    events = events_of_each(found.programme_id, runs)
    tests = [(run, acts_of(events[run.pk], run.method)) for run in runs]
    tests.sort(key=lambda one: one[1][0]["at"] if one[1] else timezone.now())
    context = {"visit": found, "summary": summary_of(found), "tests": tests}
    return render(request, "visit/sheet.html", context)
