"""What a person looks for in the library."""

from collections.abc import Iterable
from typing import Any

from django import forms

from kessa.ui.fields import choices_of
from kessa_core.finding import WATERS, MethodFacts

MINUTES = (2, 5, 15, 60)


class FindForm(forms.Form):
    """Every part may stay empty; what cannot be read is left out and said."""

    method = forms.CharField(required=False, max_length=80, label="Find a method")
    parameter = forms.ChoiceField(required=False, label="Measures")
    value = forms.FloatField(
        required=False,
        label="Range includes",
        error_messages={"invalid": "Enter a number, such as 0.5."},
    )
    principle = forms.ChoiceField(required=False, label="Reading type")
    water = forms.ChoiceField(required=False, label="Suits water that is")
    minutes = forms.TypedChoiceField(required=False, label="Takes at most", coerce=int)
    limit = forms.ChoiceField(required=False, label="Can it see this limit?")
    harmless = forms.BooleanField(required=False, label="Without hazards")
    stock = forms.BooleanField(required=False, label="Reagents in stock")

    def __init__(
        self, data: Any, facts: Iterable[MethodFacts], parameters: Any, limits: Iterable[Any]
    ) -> None:
        super().__init__(data)
        principles = sorted({one for found in facts for one in found.principles})
        for name, any_word, options in (
            ("parameter", "anything", parameters),
            ("principle", "any", [(one, one) for one in principles]),
            ("water", "any", [(one, one) for one in WATERS]),
            ("minutes", "any time", [(str(one), f"{one} min") for one in MINUTES]),
            ("limit", "no limit chosen", limits),
        ):
            choices_of(self, name).choices = [("", any_word), *options]

    def ticks(self) -> list[forms.BoundField]:
        """What is ticked or not."""
        return [self["harmless"], self["stock"]]
