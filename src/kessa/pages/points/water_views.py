"""A water: drawn, and as a grid of its points; changing what it is and which limits apply there."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from kessa.flows.limits import change_limits
from kessa.pages.points.grid import grid_of
from kessa.pages.points.latest import lines_at
from kessa.pages.points.scheme import scheme_of
from kessa.places.forms import ChangeWaterForm
from kessa.places.limit_sets import find_set
from kessa.places.models import Point, Water
from kessa.places.services import change_water as change
from kessa.places.services import limits_in_force
from kessa.platform import clock
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data
from kessa.visits.models import WaterEvent

MOST_POINTS = 40


@needs(Permission.VIEW)
def water(request: ProgrammeRequest, water_id: int) -> HttpResponse:
    """A water with its points: drawn, and the newest value of everything measured at each."""
    found = get_object_or_404(Water.objects.of(request.programme), pk=water_id)
    points = list(Point.objects.of(request.programme).filter(water=found)[:MOST_POINTS])
    lines = lines_at(request.programme, points) if points else []
    key = limits_in_force(found, clock.now())
    events = WaterEvent.objects.of(request.programme).standing().filter(water=found)
    context = {
        "water": found,
        "grid": grid_of(points, lines),
        "scheme": scheme_of(found, points, lines),
        "held": find_set(found.programme_id, key) if key else None,
        "happened": list(events.select_related("point")[:8]),
    }
    return render(request, "points/water_page.html", context)


@needs(Permission.MANAGE)
def change_water(request: ProgrammeRequest, water_id: int) -> HttpResponse:
    """Name, kind and traits; and the limits, with what was sampled since judged again."""
    water = get_object_or_404(Water.objects.of(request.programme), pk=water_id)
    form = ChangeWaterForm.of(water, form_data(request))
    if request.method == "POST" and form.is_valid():
        change(water, request.user, **form.described())
        if change_limits(water, request.user, form.cleaned_data["limit_set"], form.begin()):
            messages.success(
                request, "Results since that day are being compared with the new limits."
            )
        return redirect("waters", programme=request.programme.slug)
    context = {"form": form, "water": water}
    return render(request, "places/change_water.html", context, status=422 if form.errors else 200)
