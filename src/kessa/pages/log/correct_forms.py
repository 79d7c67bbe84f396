"""Forms to correct readings and samples. Each requires a reason."""

from collections.abc import Sequence
from typing import Any

from django import forms
from django.utils import timezone

from kessa.pages.visit.forms import BEFORE, WEATHER, ContextForm, TakeForm
from kessa.places.models import Point
from kessa.ui.fields import choices_of, rows_of
from kessa.ui.widgets import ChoiceRow
from kessa.visits.conditions import Page
from kessa.visits.models import Sample
from kessa.visits.projection import CONDITIONS
from kessa.visits.wording import wording_of
from kessa_core.readings.dropcount import Counting

KINDS = [
    ("plain", "sure of the last drop"),
    ("doubt", "in doubt: this count or the one before"),
    ("backed-off", "last drop too far: subtract one"),
    ("struck", "discard this measurement"),
]
WHY = {"required": "Enter a reason. It stays with the old value."}


class ReasonForm(forms.Form):
    """A reason."""

    why = forms.CharField(max_length=240, label="Reason", error_messages=WHY)

    def clean_why(self) -> str:
        why: str = self.cleaned_data["why"].strip()
        if not why:
            raise forms.ValidationError(WHY["required"])
        return why


class ReadingForm(ReasonForm):
    """One measurement's reading, corrected."""

    determination = forms.ChoiceField(
        widget=ChoiceRow,
        label="Measurement",
        error_messages={"required": "Choose the measurement."},
    )
    drops = forms.IntegerField(
        min_value=1,
        max_value=999,
        label="Drops counted",
        error_messages={
            "required": "Enter the whole number of drops.",
            "invalid": "Enter a whole number of drops, such as 8.",
        },
    )
    kind = forms.ChoiceField(
        choices=KINDS, widget=ChoiceRow, label="The last drop", initial="plain"
    )
    slot = forms.ChoiceField(widget=ChoiceRow, required=False, label="Reading")
    raw = forms.CharField(
        max_length=40,
        label="Correct reading, as the scale shows it",
        error_messages={"required": "Enter what the scale showed."},
    )
    strike = forms.BooleanField(required=False, label="Discard this measurement")
    field_order = ["determination", "drops", "kind", "slot", "raw", "strike", "why"]

    def __init__(
        self, data: Any, counted: list[dict[str, Any]],
        asked: Sequence[str] = Counting.corrected_by, slots: Sequence[str] = (),
    ) -> None:  # fmt: skip
        super().__init__(data)
        named = [(d["id"], f"{d['role']}: {d['words']}") for d in counted]
        choices_of(self, "determination").choices = named
        for name in {"slot", "raw", "strike", "drops", "kind"} - set(asked):
            del self.fields[name]
        if "raw" in asked:
            choices_of(self, "slot").choices = [(slot, slot) for slot in slots]
            self.fields["raw"].required = not (data and data.get("strike"))
            if len(slots) < 2:
                del self.fields["slot"]

    def correction(self) -> dict[str, Any]:
        """What shall be changed, as kessa.flows.correcting takes it."""
        said = self.cleaned_data
        kind = "struck" if said.get("strike") else said.get("kind", "plain")
        return {
            "determination": said["determination"],
            "drops": said.get("drops") or 0,
            "kind": kind,
            "why": said["why"],
            "raw": "" if said.get("strike") else said.get("raw", ""),
            "slot": said.get("slot", ""),
        }


class SampleForm(ReasonForm, ContextForm, TakeForm):
    """Corrects point, time and context of a sample; what its kind of water does not ask stays."""

    pages: tuple[Page, ...] = ("context", "take")
    point = forms.ModelChoiceField(Point.objects.none(), label="Point", empty_label=None)
    weather_now = forms.ChoiceField(
        choices=WEATHER, widget=ChoiceRow, required=False, label="Weather now"
    )
    weather_before = forms.ChoiceField(
        choices=BEFORE, widget=ChoiceRow, required=False, label="Last 24 hours"
    )
    field_order = ["point", "at", "weather_now", "weather_before", "water_c", "air_c", "seen",
                   "note", "depth_cm", "why"]  # fmt: skip

    sample: Sample

    @classmethod
    def of(cls, sample: Sample, data: Any) -> "SampleForm":
        """The form, filled with what stands."""
        kind = sample.point.water.kind
        form = cls(
            data,
            kind,
            {},
            wording_of(kind),
            initial={
                **sample.noted,
                "point": sample.point_id,
                "at": timezone.localtime(sample.taken_at),
                "weather_now": sample.weather_now,
                "weather_before": sample.weather_before,
                "water_c": sample.water_c,
                "air_c": sample.air_c,
                "seen": sample.seen,
                "note": sample.note,
                "depth_cm": sample.depth_cm,
            },
        )
        form.sample = sample
        rows_of(form, "point").queryset = Point.objects.of(sample.programme_id)
        return form

    def changes(self) -> dict[str, Any]:
        """What the sample's fields shall be. The form knows minutes; an unchanged minute keeps
        the seconds that were recorded."""
        said = self.cleaned_data
        names = (*CONDITIONS, "depth_cm")
        at = self.sample.sampled_at
        taken = at if said["at"] == at.replace(second=0, microsecond=0) else said["at"]
        return {
            "point_id": said["point"].pk,
            "taken_at": taken,
            "noted": self._noted_after(),
            **{n: said[n] for n in names if n in said},
        }

    def _noted_after(self) -> dict[str, Any]:
        """What the form does not ask stays."""
        asked = {one.key for one in self.asked}
        others = {key: value for key, value in self.sample.noted.items() if key not in asked}
        return others | self.noted()
