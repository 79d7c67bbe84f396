"""What is asked about a lot."""

from collections.abc import Sequence
from typing import Any

from django import forms

from kessa_core.methods import Method
from kessa_core.readings.lot_table import BadTable, read_table

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

    table = forms.CharField(
        required=False,
        max_length=4000,
        label="Table of the leaflet, for strips read as a height",
        help_text="One row a line: what the strip shows, then its value, from the lowest.",
        widget=forms.Textarea,
    )

    def __init__(self, data: Any, methods: Sequence[Method]) -> None:
        super().__init__(data)
        names = sorted({method.tracked for method in methods if method.tracked})
        self.fields["reagent"].choices = [(name, name) for name in names]

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
        return data
