"""What is asked about a lot."""

from collections.abc import Mapping, Sequence
from datetime import date
from math import isclose
from typing import Any, Literal

from django import forms

from kessa.library.models import Instrument, Lot
from kessa.ui.fields import choices_of
from kessa.ui.widgets import TickRow
from kessa_core.errors import NotANumber
from kessa_core.finding.materials import Material
from kessa_core.quality.bottles import FEWEST_DROPS, drop_by_filling, drop_by_weight
from kessa_core.quality.stock import pack_amount
from kessa_core.readings.lot_table import BadTable, read_table
from kessa_core.readings.lots import DropSize

TWENTY = 20
"""Drops that are weighed together."""
DAY = {"invalid": "Enter a day, such as 2027-03-31, or leave it empty."}
STORAGE = ("cool", "in the dark", "dry", "upright", "tightly closed")


class LotForm(forms.Form):
    """Reagent, number, dates; pack and storage; what was measured of it."""

    reagent = forms.ChoiceField(
        label="Reagent, strip or standard",
        error_messages={"required": "Choose what it is a lot of."},
    )
    number = forms.CharField(
        max_length=40,
        label="Lot number on the pack",
        error_messages={"required": "Enter the lot number from the pack."},
    )
    opened = forms.DateField(required=False, label="Opened", error_messages=DAY)
    expires = forms.DateField(required=False, label="Expires", error_messages=DAY)

    contains = forms.FloatField(
        required=False, min_value=0.001, max_value=1_000_000, label="A new pack holds"
    )
    contains_in = forms.ChoiceField(
        required=False,
        label="Counted in",
        choices=(("pieces", "pieces or drops"), ("tests", "tests"), ("mL", "mL")),
    )
    keeps_days = forms.IntegerField(
        required=False, min_value=1, max_value=3650, label="Keeps once opened, days"
    )
    storage = forms.MultipleChoiceField(
        required=False,
        label="Store it",
        widget=TickRow,
        choices=[(word, word) for word in STORAGE],
    )

    drops = forms.IntegerField(
        required=False,
        min_value=FEWEST_DROPS,
        max_value=200,
        label="Drops of titrant that fill 1 mL",
        help_text="Count to the mark. Results then use this bottle’s drop size.",
    )
    grams = forms.FloatField(
        required=False, min_value=0.05, max_value=50, label="Or weight of 20 drops, g"
    )
    density = forms.FloatField(
        required=False, min_value=0.5, max_value=2.5, label="Density of the titrant, g/mL"
    )
    table = forms.CharField(
        required=False,
        max_length=4000,
        label="Lot table, for strips read as a height",
        help_text="One row per line: the strip reading, then its value, from the lowest.",
        widget=forms.Textarea,
    )

    content = forms.FloatField(
        required=False, min_value=0.0001, max_value=1_000_000, label="It holds"
    )
    content_doubt = forms.FloatField(
        required=False,
        min_value=0,
        max_value=1_000_000,
        label="Plus or minus",
        help_text="As its certificate says, for 95 %. In the unit of the method.",
    )
    prepared = forms.CharField(
        required=False,
        max_length=240,
        label="How it was prepared",
        help_text="From which stock, how far diluted, when, by whom.",
    )

    def __init__(self, data: Any, materials: Mapping[str, Material], initial: Any = None) -> None:
        super().__init__(data, initial=initial)
        self.materials = materials
        names = sorted(self.materials)
        choices_of(self, "reagent").choices = [(name, name) for name in names]

    def clean_table(self) -> list[list[str]]:
        """The rows; a line that cannot be read is named."""
        try:
            return [list(row) for row in read_table(self.cleaned_data["table"])]
        except BadTable as wrong:
            raise forms.ValidationError(str(wrong)) from None

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        opened, expires = data.get("opened"), data.get("expires")
        if opened and expires and expires < opened:
            self.add_error("expires", "It expired before it was opened. Check both days.")
        material = self.materials.get(self._reagent(data), Material(""))
        drop = self._drop(data)
        if drop and not material.counted:
            self.add_error("drops", "No method counts drops of this reagent. Leave it empty.")
        data |= self._pack(data, material, drop)
        data |= self._standard(data, material)
        for name in ("drops", "grams", "density", "contains_in", "content_doubt"):
            data.pop(name, None)
        return data | {"drop_ml": drop.ml if drop else None, "drop_sd": drop.sd if drop else None}

    def _reagent(self, data: dict[str, Any]) -> str:
        return str(data.get("reagent"))

    def _drop(self, data: dict[str, Any]) -> DropSize | None:
        """The measured drop; None where nothing was measured."""
        drops, grams, density = (data.get(name) for name in ("drops", "grams", "density"))
        if drops and grams:
            self.add_error("grams", "Enter the drops that fill 1 mL or the weight, not both.")
        elif grams and not density:
            self.add_error(
                "density", "Enter the density from the leaflet: 1.00 for thin solutions."
            )
        elif grams:
            return drop_by_weight(TWENTY, grams, density or 1.0)
        return drop_by_filling(drops) if drops and not grams else None

    def _pack(
        self, data: dict[str, Any], material: Material, drop: DropSize | None
    ) -> dict[str, Any]:
        """What the pack holds, in the unit of the reagent."""
        number = data.get("contains")
        if number is None:
            return {"contains": None, "unit": ""}
        given_in: Literal["tests", "pieces", "mL"] = data.get("contains_in") or "pieces"
        ml = drop.ml if drop else material.drop_ml
        try:
            held = pack_amount(number, given_in, material.unit, material.one_test, ml)
        except NotANumber as wrong:
            self.add_error("contains", str(wrong))
            held = number
        return {"contains": held, "unit": material.unit}

    def _standard(self, data: dict[str, Any], material: Material) -> dict[str, Any]:
        """What a standard holds, and its relative doubt."""
        content, doubt = data.get("content"), data.get("content_doubt")
        if content is None:
            if doubt:
                self.add_error("content", "Enter what it holds, too.")
            return {"content": None, "content_sd": None, "content_unit": ""}
        if not material.holds:
            self.add_error("content", "No method uses this as a standard. Leave it empty.")
        elif doubt and doubt >= content:
            self.add_error("content_doubt", "This is more than it holds. Check both figures.")
        sd = doubt / 2 / content if doubt else None
        return {"content": content, "content_sd": sd, "content_unit": material.holds}


def shown(thing: Lot | Instrument, names: Sequence[str]) -> dict[str, Any]:
    """What is noted of it, as a form shows it: a date as a date field takes it."""
    held = {name: getattr(thing, name) for name in names}
    return {n: one.isoformat() if isinstance(one, date) else one for n, one in held.items()}


def _short(value: Any) -> Any:
    """A computed figure without the tail that computing leaves."""
    if not isinstance(value, float):
        return value
    return int(value) if value.is_integer() else float(f"{value:.9g}")


class LotCorrectionForm(LotForm):
    """Corrects what was recorded of a lot, with a reason. The reagent stays; so does the measured
    drop where none is given."""

    recovery_percent = forms.FloatField(
        required=False,
        min_value=20,
        max_value=500,
        label="It finds, % of a standard",
        help_text="125: it reads a quarter too high. Results are divided by it.",
    )
    recovery_doubt = forms.FloatField(
        required=False, min_value=0, max_value=100, label="Plus or minus, %"
    )
    in_use = forms.BooleanField(required=False, label="In use")
    why = forms.CharField(
        max_length=200,
        label="Reason",
        error_messages={"required": "Enter a reason. It stays with the old value."},
    )

    def __init__(self, data: Any, materials: Mapping[str, Material], lot: Lot) -> None:
        super().__init__(data, materials, self._held(lot))
        del self.fields["reagent"]
        self.lot = lot

    @staticmethod
    def _held(lot: Lot) -> dict[str, Any]:
        names = (
            "number", "opened", "expires", "in_use", "contains", "keeps_days", "storage", "content",
            "content_doubt", "prepared", "recovery_percent",
        )  # fmt: skip
        held = shown(lot, names)
        held["table"] = "\n".join(" ".join(map(str, row)) for row in lot.table)
        if lot.recovery and lot.recovery_sd:
            held["recovery_doubt"] = 200 * lot.recovery_sd * lot.recovery
        return {name: _short(value) for name, value in held.items()}

    def _reagent(self, data: dict[str, Any]) -> str:
        return self.lot.reagent

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        if data["drop_ml"] is None:
            del data["drop_ml"], data["drop_sd"]
        percent, doubt = data.pop("recovery_percent", None), data.pop("recovery_doubt", None)
        material = self.materials.get(self.lot.reagent, Material(""))
        if percent and not material.rests:
            self.add_error(
                "recovery_percent",
                "Values do not rest on this reagent. Enter it at the one that makes the colour.",
            )
        if doubt and not percent:
            self.add_error("recovery_percent", "Enter what it finds of a standard, too.")
        data["recovery"] = percent / 100 if percent else None
        data["recovery_sd"] = doubt / 2 / percent if percent and doubt else None
        return data | self._unchanged(data)

    def _unchanged(self, data: dict[str, Any]) -> dict[str, Any]:
        """Figures that differ only by what showing them rounded off."""
        names = ("contains", "content", "content_sd", "recovery", "recovery_sd")
        held = {name: getattr(self.lot, name) for name in names}
        return {
            name: was
            for name, was in held.items()
            if was is not None and data[name] is not None and isclose(was, data[name], rel_tol=1e-6)
        }
