"""What is asked on the way to a sample; everything typed stays when something is wrong."""

from collections.abc import Mapping
from datetime import timedelta
from decimal import Decimal
from typing import Any

from django import forms
from django.utils import timezone

from kessa.ui.fields import choices_of
from kessa.ui.widgets import ChoiceRow, TickRow
from kessa.visits.conditions import Condition, Page, conditions_at
from kessa.visits.wording import Wording, reasons_at

WEATHER = [(word, word) for word in ("clear", "cloudy", "rain", "snow", "fog", "wind")]
BEFORE = [(word, word) for word in ("dry", "rain", "heavy rain", "snow", "thaw")]
CHOOSE = {"required": "Choose the weather. It helps to explain the result."}
DEGREES = {"invalid": "Enter a number in °C, such as 6.5, or leave it empty."}


class NotSampledForm(forms.Form):
    """Why nothing is sampled."""

    reason = forms.ChoiceField(widget=ChoiceRow, required=False, label="Reason")
    more = forms.CharField(max_length=200, required=False, label="In your own words")

    def __init__(self, data: Any, kind: str) -> None:
        super().__init__(data)
        choices_of(self, "reason").choices = [(word, word) for word in reasons_at(kind)]

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        said = ": ".join(part for part in (data.get("reason"), data.get("more")) if part)
        if not said:
            raise forms.ValidationError("Choose a reason or write one. It is saved with the visit.")
        return data | {"said": said}


class PhotographForm(forms.Form):
    """A photograph of what is seen: its key, and what it shows."""

    photo = forms.RegexField(r"^[0-9a-f]{64}$")
    what = forms.CharField(max_length=200, required=False, label="What it shows")


class NotedForm(forms.Form):
    """What is asked by the kind of water. before: what was noted last time, of which some may
    still hold."""

    pages: tuple[Page, ...]

    def __init__(self, data: Any, kind: str, before: Mapping[str, Any], **more: Any) -> None:
        super().__init__(data, **more)
        self.asked = [one for page in self.pages for one in conditions_at(kind, page)]
        self.offered = []
        for one in self.asked:
            self.fields[one.key] = _field_of(one)
            if one.holds and before.get(one.key):
                self.fields[one.key].initial = before[one.key]
                self.offered.append(one.label)

    @property
    def by_kind(self) -> list[tuple[Condition, forms.BoundField]]:
        """What the kind of water asks for, each with its field."""
        return [(one, self[one.key]) for one in self.asked]

    def noted(self) -> dict[str, Any]:
        """What was noted of them."""
        said = {one.key: self.cleaned_data[one.key] for one in self.asked}
        return {key: _plain(value) for key, value in said.items() if value not in (None, "")}


def _field_of(one: Condition) -> forms.Field:
    if one.choices:
        choices = [(word, word) for word in one.choices]
        if one.as_list:
            return forms.ChoiceField(
                choices=[("", "not said"), *choices], required=False, label=one.label
            )
        return forms.ChoiceField(choices=choices, widget=ChoiceRow, required=False, label=one.label)
    if one.is_number:
        return forms.DecimalField(
            label=one.label, required=False, min_value=-1000, max_value=10**9, decimal_places=3,
            error_messages={"invalid": "Enter a number, or leave it empty."},
        )  # fmt: skip
    return forms.CharField(max_length=160, required=False, label=one.label)


def _plain(value: Any) -> Any:
    return f"{value.normalize():f}" if isinstance(value, Decimal) else value


class ContextForm(NotedForm):
    """What is noted before touching the water."""

    pages: tuple[Page, ...] = ("context",)

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

    def __init__(
        self, data: Any, kind: str, before: Mapping[str, Any], wording: Wording, **more: Any
    ) -> None:
        super().__init__(data, kind, before, **more)
        choices_of(self, "seen").choices = [(word, word) for word in wording.seen]
        if not wording.outdoors:
            for name in ("weather_now", "weather_before", "air_c"):
                del self.fields[name]


class TakeForm(NotedForm):
    """When the sample was taken (now, unless said otherwise), and how."""

    pages: tuple[Page, ...] = ("take",)

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
