"""Own targets for a water: a band for each thing that is measured there, with its source."""

from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from kessa.flows.limits import set_targets
from kessa.pages.points.targets import TargetSheet
from kessa.places.limit_sets import find_set, others_of
from kessa.places.models import Water
from kessa.places.services import limits_in_force
from kessa.platform import clock
from kessa.platform.days import start_of
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data


class FromForm(forms.Form):
    """From which day on the targets hold."""

    begins = forms.DateField(
        required=False,
        label="Targets hold from",
        help_text="Leave empty if they hold from now on. Earlier results keep their verdicts.",
        error_messages={"invalid": "Enter a day, such as 2027-03-31, or leave it empty."},
    )


@needs(Permission.MANAGE)
def targets(request: ProgrammeRequest, water_id: int) -> HttpResponse:
    """The sheet of targets; while it is filled in, what the newest values would be called."""
    water = get_object_or_404(Water.objects.of(request.programme), pk=water_id)
    key = limits_in_force(water, clock.now())
    held = find_set(water.programme_id, key) if key else None
    is_sent = request.method == "POST"
    sheet = TargetSheet(water, held, request.POST if is_sent else None)
    form = FromForm(form_data(request))
    context: dict[str, Any] = {
        "water": water, "sheet": sheet, "form": form, "held": held, "others": others_of(held),
    }  # fmt: skip
    if is_sent and request.htmx:
        return render(request, "points/targets_told.html", context)
    if is_sent and form.is_valid() and not sheet.is_wrong:
        day = form.cleaned_data["begins"]
        begins = start_of(day) if day else None
        if set_targets(water, request.user, held, sheet.targets, begins):
            messages.success(request, "Results since that day are being compared with the targets.")
        return redirect("waters", programme=request.programme.slug)
    return render(request, "points/targets.html", context, status=422 if is_sent else 200)
