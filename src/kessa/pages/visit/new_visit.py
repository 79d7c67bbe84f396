"""A visit made by hand: which points, and what is usual there."""

from django.http import HttpResponse
from django.shortcuts import redirect, render

from kessa.flows.testing import begin_ready
from kessa.flows.usual_tests import usual_tests
from kessa.library.models import MethodVersion
from kessa.pages.visit.crew import CrewForm
from kessa.places.models import Point
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data
from kessa.ui.row_number import row_number
from kessa.visits.services import Asked

MOST_POINTS = 12


@needs(Permission.TEST)
def new_visit(request: ProgrammeRequest) -> HttpResponse:
    """Tick points; the visit takes along what was tested there last. Who goes, and with what."""
    points = list(Point.objects.of(request.programme).for_lists())
    usual = usual_tests(request.programme, points)
    wanted = {row_number(text) for text in request.POST.getlist("point")}
    chosen = [point for point in points if point.pk in wanted and usual[point.pk]]
    form = CrewForm(form_data(request), request.programme, request.user)
    if request.method == "POST" and 0 < len(chosen) <= MOST_POINTS and form.is_valid():
        asked = [Asked(point, usual[point.pk]) for point in chosen]
        made = begin_ready(request.programme, request.user, asked, form.prepared())
        return redirect("visit", request.programme.slug, made.pk)
    titles = {
        version.method_id: version.method.short
        for version in MethodVersion.objects.of(request.programme).newest()
    }
    context = {
        "form": form,
        "rows": [
            (point, [titles[key] for key in usual[point.pk] if key in titles], point.pk in wanted)
            for point in points
        ],
        "wrong": _wrong(len(chosen)) if request.method == "POST" else "",
    }
    status = 422 if request.method == "POST" else 200
    return render(request, "visit/new_visit.html", context, status=status)


def _wrong(chosen: int) -> str:
    if chosen > MOST_POINTS:
        return f"A visit has at most {MOST_POINTS} points."
    return "" if chosen else "Tick at least one point."
