"""What is asked about a lot."""

from collections.abc import Sequence
from typing import Any

from django import forms

from kessa_core.methods import Method

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

    def __init__(self, data: Any, methods: Sequence[Method]) -> None:
        super().__init__(data)
        names = sorted({method.titration.titrant for method in methods})
        self.fields["reagent"].choices = [(name, name) for name in names]

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        opened, expires = data.get("opened"), data.get("expires")
        if opened and expires and expires < opened:
            self.add_error("expires", "It expired before it was opened; check both days.")
        return data
