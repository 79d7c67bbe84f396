"""A water: drawn, and as a grid of its points; changing what it is and which limits apply there."""

from urllib.parse import urlencode

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from kessa.flows.limits import change_limits
from kessa.pages.points.grid import grid_of
from kessa.pages.points.latest import lines_at
from kessa.pages.points.scheme import scheme_of
from kessa.places.facts import system_inputs
from kessa.places.forms import ChangeWaterForm
from kessa.places.limit_sets import find_set, misfit
from kessa.places.models import Point, Water
from kessa.places.services import change_water as change
from kessa.places.services import limits_in_force
from kessa.platform import clock
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data
from kessa.visits.models import WaterEvent
from kessa_core.calculations.filling import for_system
from kessa_core.judging import LimitSet

MOST_POINTS = 40


@needs(Permission.VIEW)
def water(request: ProgrammeRequest, water_id: int) -> HttpResponse:
    """A water with its points: drawn, and the newest value of everything measured at each."""
    found = get_object_or_404(Water.objects.of(request.programme), pk=water_id)
    points = list(Point.objects.of(request.programme).filter(water=found)[:MOST_POINTS])
    lines = lines_at(request.programme, points) if points else []
    held, slug = set_of(found), request.programme.slug
    events = WaterEvent.objects.of(request.programme).standing().filter(water=found)
    context = {
        "water": found,
        "grid": grid_of(points, lines),
        "scheme": scheme_of(found, points, lines),
        "held": held,
        "misfit": misfit(found, held),
        "sums": [
            (one.about, f"{reverse('calculation', args=[slug, one.name])}?{urlencode(one.inputs)}")
            for one in for_system(system_inputs(found.facts))
        ],
        "happened": list(events.select_related("point")[:8]),
    }
    return render(request, "points/water_page.html", context)


def set_of(water: Water) -> LimitSet | None:
    """The limit set that applies at a water now."""
    key = limits_in_force(water, clock.now())
    return find_set(water.programme_id, key) if key else None


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
        if why := misfit(water, set_of(water)):
            messages.warning(request, f"{why} Choose the set for its pressure.")
        return redirect("waters", programme=request.programme.slug)
    context = {"form": form, "water": water}
    return render(request, "places/change_water.html", context, status=422 if form.errors else 200)
