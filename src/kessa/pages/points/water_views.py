"""Changing a water: what it is, and which limits apply there from which day on."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from kessa.flows.limits import change_limits
from kessa.places.forms import ChangeWaterForm
from kessa.places.models import Water
from kessa.places.services import change_water as change
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data


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
