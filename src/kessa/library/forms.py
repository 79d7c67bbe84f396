"""What is asked about a lot."""

from collections.abc import Sequence
from typing import Any

from django import forms

from kessa.ui.fields import choices_of
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
        error_messages={"required": "Type the lot number from the bottle."},
    )
    opened = forms.DateField(required=False, label="Opened", error_messages=DAY)
    expires = forms.DateField(required=False, label="Expires", error_messages=DAY)

    drops = forms.IntegerField(
        required=False,
        min_value=FEWEST_DROPS,
        max_value=200,
        label="Drops of the titrant itself that fill 1 mL",
        help_text="Then this bottle’s own drop takes the place of the kit’s. Count to the mark.",
    )
    grams = forms.FloatField(
        required=False, min_value=0.05, max_value=50, label="Or: weight of twenty drops, in g"
    )
    density = forms.FloatField(
        required=False, min_value=0.5, max_value=2.5, label="Density of the titrant, in g/mL"
    )
    table = forms.CharField(
        required=False,
        max_length=4000,
        label="Table of the leaflet, for strips read as a height",
        help_text="One row a line: what the strip shows, then its value, from the lowest.",
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

    def clean_table(self) -> list[tuple[str, str]]:
        """The rows; a line that cannot be read is named."""
        try:
            return list(read_table(self.cleaned_data["table"]))
        except BadTable as wrong:
            raise forms.ValidationError(str(wrong)) from None

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        opened, expires = data.get("opened"), data.get("expires")
        if opened and expires and expires < opened:
            self.add_error("expires", "It expired before it was opened; check both days.")
        drop = self._drop(data)
        if drop and data.get("reagent") not in self.dropped:
            self.add_error("drops", "No method counts drops of this reagent. Leave it empty.")
        for name in ("drops", "grams", "density"):
            data.pop(name, None)
        return data | {"drop_ml": drop.ml if drop else None, "drop_sd": drop.sd if drop else None}

    def _drop(self, data: dict[str, Any]) -> DropSize | None:
        """The measured drop; None where nothing was measured."""
        drops, grams, density = (data.get(name) for name in ("drops", "grams", "density"))
        if drops and grams:
            self.add_error("grams", "Give the drops that fill 1 mL, or the weight; not both.")
        elif grams and not density:
            self.add_error(
                "density", "Type the density, from the leaflet: 1.00 for thin solutions."
            )
        elif grams:
            return drop_by_weight(TWENTY, grams, density or 1.0)
        return drop_by_filling(drops) if drops and not grams else None
