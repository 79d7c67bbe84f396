"""What is asked about a water and a point."""

from collections.abc import Sequence
from datetime import datetime, time
from typing import Any, Self

from django import forms
from django.utils import timezone

from kessa.places.facts import FOLLOWING, Fact, facts_of
from kessa.places.limit_sets import find_set, sets_known
from kessa.places.models import Point, Water
from kessa.places.parts import every_part
from kessa.places.services import limits_in_force
from kessa.platform import clock
from kessa.platform.models import Programme
from kessa.ui.fields import choices_of, rows_of
from kessa.ui.widgets import TickRow
from kessa_core.methods.suitability import TRAITS

OTHER = "new"
EMPTY: tuple[Any, ...] = (None, "", [])
NOTED = list(TRAITS.items())


def sets(programme: Programme) -> list[tuple[str, str]]:
    """The limit sets to choose from."""
    known = [(one.id, f"{one.title}, {one.edition}") for one in sets_known(programme)]
    return [("", "none yet"), *known]


DESCRIBED = (
    "name", "place", "part", "altitude_m", "latitude", "longitude", "tag", "landmarks",
    "getting_there",
)  # fmt: skip
"""What a form says of a point in single fields."""


class PointForm(forms.Form):
    """A point: its name, where it is, how to get there, what is dangerous."""

    name = forms.CharField(
        max_length=80,
        label="Point",
        error_messages={"required": "Name the point, such as “at the ford”."},
    )
    place = forms.CharField(
        max_length=160,
        label="Exact location",
        error_messages={"required": "Say where it is, so that the next person finds it."},
    )
    part = forms.ChoiceField(
        choices=[("", "not said"), *every_part()], required=False, label="Part"
    )
    altitude_m = forms.IntegerField(
        required=False, min_value=-430, max_value=6000, label="Altitude, m",
        help_text="For the oxygen that water holds there.",
    )  # fmt: skip
    latitude = forms.FloatField(
        required=False, min_value=-90, max_value=90, label="Latitude, degrees"
    )
    longitude = forms.FloatField(
        required=False, min_value=-180, max_value=180, label="Longitude, degrees"
    )
    tag = forms.CharField(
        max_length=40,
        required=False,
        label="Tag",
        help_text="What is fixed or painted there, such as a number on a plate.",
    )
    landmarks = forms.CharField(
        max_length=240,
        required=False,
        label="Landmarks",
        help_text="By which the same spot is found again, such as “flat stone left of the bridge”.",
    )
    getting_there = forms.CharField(max_length=1000, required=False, label="Directions")
    dangers = forms.CharField(
        max_length=1000,
        required=False,
        label="Hazards, one per line",
        widget=forms.Textarea,
    )

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if (data.get("latitude") is None) != (data.get("longitude") is None):
            self.add_error("longitude", "Latitude and longitude belong together.")
        return data

    def clean_dangers(self) -> list[str]:
        lines = self.cleaned_data["dangers"].splitlines()
        return [line.strip()[:160] for line in lines if line.strip()][:12]


def field_of(fact: Fact) -> forms.Field:
    """The field in which a fact of a water is typed."""
    label = f"{fact.label}, {fact.unit}" if fact.unit else fact.label
    if fact.answer == "number":
        return forms.FloatField(
            required=False, min_value=0, max_value=1e9, label=label,
            error_messages={"invalid": "Enter a number, such as 9 or 0.5."},
        )  # fmt: skip
    if fact.answer == "several":
        return forms.MultipleChoiceField(
            choices=fact.choices, required=False, widget=TickRow, label=label
        )
    if fact.answer == "one":
        choices = [("", "not said"), *fact.choices]
        return forms.ChoiceField(choices=choices, required=False, label=label)
    return forms.CharField(max_length=240, required=False, label=label)


class WaterForm(forms.Form):
    """A water: what it is called and is, the limits there, and what some kits are not for."""

    water_name = forms.CharField(
        max_length=80,
        label="Name of the stream, pool or system",
        error_messages={"required": "Enter a name, such as “Quill Brook”."},
    )
    kind = forms.ChoiceField(choices=Water.Kind.choices, required=False, label="Kind of water")
    limit_set = forms.ChoiceField(
        required=False,
        label="Limits",
        help_text="Kessa’s limits are a starting point. Your local rules decide.",
    )
    traits = forms.MultipleChoiceField(
        choices=NOTED, required=False, widget=TickRow, label="Known properties"
    )
    known: Sequence[Fact] = ()

    @classmethod
    def of(cls, water: Water, data: Any) -> Self:
        """The form, filled with what is set now."""
        initial = {"kind": water.kind, "traits": water.traits, "water_name": water.name}
        initial |= {
            f"fact-{key}": f"{said:g}" if isinstance(said, float) else said
            for key, said in water.facts.items()
        }
        held = limits_in_force(water, clock.now())
        form = cls(data, initial=initial | {"limit_set": held})
        offered = sets(water.programme)
        if held not in dict(offered):
            offered.append((held, str(find_set(water.programme_id, held).title)))
        choices_of(form, "limit_set").choices = offered
        form.known = facts_of(water.kind)
        form.fields |= {f"fact-{fact.key}": field_of(fact) for fact in form.known}
        asked = {FOLLOWING.get(fact.key) for fact in form.known} - set(water.traits)
        choices_of(form, "traits").choices = [one for one in NOTED if one[0] not in asked]
        return form

    @property
    def facts(self) -> list[forms.BoundField]:
        """The fields of what is asked of this kind of water."""
        return [self[f"fact-{fact.key}"] for fact in self.known]

    def described(self) -> dict[str, Any]:
        """The water's fields."""
        said = self.cleaned_data
        kind = said["kind"] or Water.Kind.STREAM
        answers = {fact.key: said[f"fact-{fact.key}"] for fact in self.known if kind in fact.kinds}
        return {
            "name": said["water_name"].strip(),
            "kind": kind,
            "traits": said["traits"],
            "facts": {key: answer for key, answer in answers.items() if answer not in EMPTY},
        }


class ChangeWaterForm(WaterForm):
    """A water that is there, and from which day on its limits apply."""

    limits_from = forms.DateField(
        required=False,
        label="Limits apply from",
        help_text="Leave empty if the limits apply from now on. Earlier results keep their "
        "verdicts.",
        widget=forms.DateInput({"type": "date"}),
    )

    def begin(self) -> datetime | None:
        """The start of the day that was chosen; None: from now on."""
        day = self.cleaned_data["limits_from"]
        return timezone.make_aware(datetime.combine(day, time())) if day else None


class NewPointForm(PointForm, WaterForm):
    """A point at a water that is there, or at a new one."""

    water = forms.ChoiceField(label="Water")

    def __init__(self, data: Any, programme: Programme, water: str = "") -> None:
        waters = [(str(w.pk), w.name) for w in Water.objects.of(programme)]
        super().__init__(data, initial={"water": water or (waters[0][0] if waters else OTHER)})
        choices_of(self, "water").choices = [*waters, (OTHER, "a new one")]
        choices_of(self, "limit_set").choices = sets(programme)
        self.fields["water_name"].required = False
        self.fields["water_name"].label = "Name of the new stream, pool or system"

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if data.get("water_name", "").strip():
            data["water"] = OTHER
        elif data.get("water") == OTHER:
            self.add_error("water_name", "Enter a name, such as “Quill Brook”.")
        return data


class ChangePointForm(PointForm):
    """Edits a point, with the point it is paired with."""

    pair = forms.ModelChoiceField(
        Point.objects.none(), required=False, label="Comparison point", empty_label="none"
    )

    def __init__(self, data: Any, point: Point) -> None:
        initial = {name: getattr(point, name) for name in DESCRIBED}
        initial |= {"dangers": "\n".join(point.dangers), "pair": point.pair_id}
        super().__init__(data, initial=initial)
        others = Point.objects.of(point.programme_id).exclude(pk=point.pk)
        rows_of(self, "pair").queryset = others
