"""What is asked on the way to a sample; everything typed stays when something is wrong."""

from datetime import timedelta
from typing import Any

from django import forms
from django.utils import timezone

from kessa.ui.fields import choices_of
from kessa.ui.widgets import ChoiceRow, TickRow
from kessa.visits.wording import Wording

WEATHER = [(word, word) for word in ("clear", "cloudy", "rain", "snow", "fog", "wind")]
BEFORE = [(word, word) for word in ("dry", "rain", "heavy rain", "snow", "thaw")]
CHOOSE = {"required": "Choose the weather. It helps to explain the result."}
DEGREES = {"invalid": "Enter a number in °C, such as 6.5, or leave it empty."}


class NotSampledForm(forms.Form):
    """Why nothing is sampled."""

    reason = forms.ChoiceField(widget=ChoiceRow, required=False, label="Reason")
    more = forms.CharField(max_length=200, required=False, label="In your own words")

    def __init__(self, data: Any, wording: Wording) -> None:
        super().__init__(data)
        choices_of(self, "reason").choices = [(word, word) for word in wording.reasons]

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        said = ": ".join(part for part in (data.get("reason"), data.get("more")) if part)
        if not said:
            raise forms.ValidationError("Choose a reason or write one. It is saved with the visit.")
        return data | {"said": said}


class ContextForm(forms.Form):
    """What is noted before touching the water."""

    weather_now = forms.ChoiceField(
        choices=WEATHER, widget=ChoiceRow, label="Weather now", error_messages=CHOOSE
    )
    weather_before = forms.ChoiceField(
        choices=BEFORE, widget=ChoiceRow, label="Last 24 hours", error_messages=CHOOSE
    )
    air_c = forms.DecimalField(
        label="Air in the shade, °C",
        required=False,
        min_value=-50,
        max_value=60,
        decimal_places=1,
        error_messages=DEGREES,
    )
    seen = forms.MultipleChoiceField(widget=TickRow, required=False, label="What you see")
    note = forms.CharField(max_length=500, required=False, label="Note")

    def __init__(self, data: Any, wording: Wording, **more: Any) -> None:
        super().__init__(data, **more)
        choices_of(self, "seen").choices = [(word, word) for word in wording.seen]
        if not wording.outdoors:
            for name in ("weather_now", "weather_before", "air_c"):
                del self.fields[name]


class TakeForm(forms.Form):
    """When the sample was taken; now, unless said otherwise."""

    at = forms.DateTimeField(
        label="Time of sampling",
        input_formats=["%Y-%m-%dT%H:%M"],
    )
    water_c = forms.DecimalField(
        label="Water temperature, °C",
        required=False,
        min_value=-2,
        max_value=100,
        decimal_places=1,
        error_messages=DEGREES,
    )
    depth_cm = forms.IntegerField(
        required=False, min_value=0, max_value=20_000, label="Depth, cm",
        error_messages={"invalid": "Enter whole centimetres, such as 30, or leave it empty."},
    )  # fmt: skip

    def clean_at(self) -> Any:
        at = self.cleaned_data["at"]
        if at > timezone.now() + timedelta(minutes=2):
            raise forms.ValidationError(
                "This time is in the future. Enter the time you filled the bottle."
            )
        return at
