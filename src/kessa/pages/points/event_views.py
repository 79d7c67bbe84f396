"""What happened at a water: written down, listed, withdrawn."""

from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from kessa.places.models import Point
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data
from kessa.visits.models import WaterEvent
from kessa.visits.water_events import note_event, withdraw_event

LISTED = 50
EVERYWHERE, HERE = "all", "here"


class EventForm(forms.Form):
    """What happened, when, and where."""

    kind = forms.ChoiceField(choices=WaterEvent.Kind.choices, label="What happened")
    happened_at = forms.DateTimeField(
        label="When",
        error_messages={
            "required": "Say when it was.",
            "invalid": "Enter day and time, such as 2027-03-31 09:30.",
        },
    )
    words = forms.CharField(
        max_length=160,
        required=False,
        label="In a few words",
        help_text="Such as “12 L of inhibitor” or “lane salted after frost”.",
    )
    where = forms.ChoiceField(
        choices=[(EVERYWHERE, "all of this water"), (HERE, "this point alone")],
        label="Where",
    )

    def clean_happened_at(self) -> Any:
        at = self.cleaned_data["happened_at"]
        if at > timezone.now():
            raise forms.ValidationError("That is still to come.")
        return at


@needs(Permission.TEST)
def water_events(request: ProgrammeRequest, point_id: int) -> HttpResponse:
    """What was written down of a point's water, and a form for more."""
    point = get_object_or_404(Point.objects.of(request.programme), pk=point_id)
    now = timezone.localtime()
    first = {"where": EVERYWHERE, "happened_at": f"{now:%Y-%m-%dT%H:%M}"}
    form = EventForm(form_data(request), initial=first)
    if request.method == "POST" and form.is_valid():
        said = form.cleaned_data
        alone = point if said["where"] == HERE else None
        note_event(
            point.water, request.user, said["kind"], said["happened_at"], said["words"], alone
        )
        messages.success(request, "It is written down, and stands under the charts.")
        return redirect("point", request.programme.slug, point.pk)
    events = WaterEvent.objects.of(request.programme).standing().at(point)
    context = {"point": point, "form": form, "events": list(events.select_related("by")[:LISTED])}
    status = 422 if request.method == "POST" else 200
    return render(request, "points/events.html", context, status=status)


@require_POST
@needs(Permission.TEST)
def withdraw(request: ProgrammeRequest, point_id: int, event_id: int) -> HttpResponse:
    """It was a mistake."""
    point = get_object_or_404(Point.objects.of(request.programme), pk=point_id)
    events = WaterEvent.objects.of(request.programme).at(point)
    withdraw_event(get_object_or_404(events, pk=event_id), request.user)
    return redirect("water-events", request.programme.slug, point.pk)
