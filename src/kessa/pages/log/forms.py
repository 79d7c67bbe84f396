"""The log's filters; what cannot be read is left out, and says so beside its field."""

from collections.abc import Iterable
from typing import Any

from django import forms

from kessa.places.models import Point
from kessa.results.queries import ResultQuery
from kessa.ui.fields import choices_of
from kessa.ui.widgets import PlainSelect
from kessa_core.quantities import parameters
from kessa_core.runs import WITHOUT_FIGURE

SIGNS = [
    ("", "any verdict"),
    ("within", "● within"),
    ("close", "◐ too close to call"),
    ("beyond", "◆ beyond"),
    ("none", "○ no result or no limit"),
    *((how, f"○ {words}") for how, words in WITHOUT_FIGURE.items()),
]


class LogFilter(forms.Form):
    """Point, parameter, verdict, first and last day."""

    point = forms.TypedChoiceField(required=False, coerce=int, empty_value=None, widget=PlainSelect)
    parameter = forms.ChoiceField(required=False, widget=PlainSelect)
    sign = forms.ChoiceField(choices=SIGNS, required=False, label="Verdict", widget=PlainSelect)
    first = forms.DateField(required=False, label="From", widget=forms.DateInput({"type": "date"}))
    last = forms.DateField(required=False, label="To", widget=forms.DateInput({"type": "date"}))

    def __init__(self, data: Any, points: Iterable[Point]) -> None:
        super().__init__(data)
        places = [(str(point.pk), str(point)) for point in points]
        choices_of(self, "point").choices = [("", "every point"), *places]
        named = [(key, found.name) for key, found in parameters().items()]
        choices_of(self, "parameter").choices = [("", "every parameter"), *named]
        for field in self.fields.values():
            field.widget.attrs["class"] = "in"

    def narrow(self, results: ResultQuery) -> ResultQuery:
        """The results that the filters leave."""
        self.is_valid()
        asked = self.cleaned_data
        if asked.get("point"):
            results = results.at(asked["point"])
        if asked.get("parameter"):
            results = results.of_parameter(asked["parameter"])
        if sign := asked.get("sign"):
            results = results.with_outcome(sign)
        return results.between(asked.get("first"), asked.get("last"))


class DecisionForm(forms.Form):
    """A reviewer's decision about the evaluation the page showed, after the last decision it
    showed."""

    decision = forms.ChoiceField(
        choices=[("accept", "Accept"), ("return", "Return"), ("reject", "Reject")],
        error_messages={"required": "Choose: accept, return or reject."},
    )
    reason = forms.CharField(max_length=500, required=False)
    evaluation = forms.IntegerField(min_value=1, max_value=2**62)
    last = forms.IntegerField(min_value=0, max_value=2**62)


class AnswerForm(forms.Form):
    """The analyst's answer to a returned result."""

    answer = forms.CharField(
        max_length=500, error_messages={"required": "Write the answer; it goes to the reviewer."}
    )
