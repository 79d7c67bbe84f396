"""What is asked about a lot or an instrument."""

from collections.abc import Sequence
from datetime import date
from typing import Any

from django import forms

from kessa.library.models import Instrument, Lot
from kessa.ui.fields import choices_of
from kessa.ui.widgets import TickRow
from kessa_core.methods import Method
from kessa_core.quality.bottles import FEWEST_DROPS, drop_by_filling, drop_by_weight
from kessa_core.readings.lot_table import BadTable, read_table
from kessa_core.readings.lots import DropSize

TWENTY = 20
"""Drops that are weighed together."""
DAY = {"invalid": "Enter a day, such as 2027-03-31, or leave it empty."}


class LotForm(forms.Form):
    """Reagent, number, dates."""

    reagent = forms.ChoiceField(label="Reagent", error_messages={"required": "Choose the reagent."})
    number = forms.CharField(
        max_length=40,
        label="Lot number on the bottle",
        error_messages={"required": "Enter the lot number from the bottle."},
    )
    opened = forms.DateField(required=False, label="Opened", error_messages=DAY)
    expires = forms.DateField(required=False, label="Expires", error_messages=DAY)

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

    def __init__(self, data: Any, methods: Sequence[Method]) -> None:
        super().__init__(data)
        names = sorted({name for method in methods for name in method.tracked})
        choices_of(self, "reagent").choices = [(name, name) for name in names]
        self.dropped = {
            influence.whose
            for method in methods
            for stage in method.stages
            for influence in stage.influences
            if influence.of == "drop-size"
        }

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
        drop = self._drop(data)
        if drop and self._reagent(data) not in self.dropped:
            self.add_error("drops", "No method counts drops of this reagent. Leave it empty.")
        for name in ("drops", "grams", "density"):
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


def _shown(thing: Lot | Instrument, names: Sequence[str]) -> dict[str, Any]:
    """What is noted of it, as a form shows it: a date as a date field takes it."""
    held = {name: getattr(thing, name) for name in names}
    return {n: one.isoformat() if isinstance(one, date) else one for n, one in held.items()}


class LotCorrectionForm(LotForm):
    """Corrects what was recorded of a lot, with a reason. The reagent stays; so does the measured
    drop where none is given."""

    in_use = forms.BooleanField(required=False, label="In use")
    why = forms.CharField(
        max_length=200,
        label="Reason",
        error_messages={"required": "Enter a reason. It stays with the old value."},
    )

    def __init__(self, data: Any, methods: Sequence[Method], lot: Lot) -> None:
        super().__init__(data, methods)
        del self.fields["reagent"]
        self.lot = lot
        self.initial = _shown(lot, ("number", "opened", "expires", "in_use"))
        self.initial["table"] = "\n".join(" ".join(map(str, row)) for row in lot.table)

    def _reagent(self, data: dict[str, Any]) -> str:
        return self.lot.reagent

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        if data["drop_ml"] is None:
            del data["drop_ml"], data["drop_sd"]
        return data


class InstrumentForm(forms.Form):
    """Name, number, what it measures, its checks."""

    name = forms.CharField(
        max_length=60,
        label="Name",
        error_messages={"required": "Enter a name, such as pH meter 2."},
    )
    number = forms.CharField(max_length=40, required=False, label="Serial number")
    kinds = forms.MultipleChoiceField(
        widget=TickRow,
        label="Used as",
        error_messages={"required": "Choose at least one."},
    )
    checked_on = forms.DateField(required=False, label="Last checked", error_messages=DAY)
    check_due = forms.DateField(required=False, label="Next check due", error_messages=DAY)
    in_use = forms.BooleanField(required=False, label="In use")

    def __init__(
        self, data: Any, methods: Sequence[Method], instrument: Instrument | None = None
    ) -> None:
        names = ("name", "number", "kinds", "checked_on", "check_due", "in_use")
        super().__init__(data, initial=_shown(instrument, names) if instrument else None)
        kinds = {kind for method in methods for kind in method.instruments}
        kinds |= set(instrument.kinds if instrument else ())
        choices_of(self, "kinds").choices = [(kind, kind) for kind in sorted(kinds)]
        if instrument is None:
            del self.fields["in_use"]

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        checked, due = data.get("checked_on"), data.get("check_due")
        if checked and due and due < checked:
            self.add_error("check_due", "This is before the last check. Check both dates.")
        return data
