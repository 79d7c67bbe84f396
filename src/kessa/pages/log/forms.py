"""The log's filters; what cannot be read is left out, and says so beside its field."""

from collections.abc import Iterable
from typing import Any, cast

from django import forms
from django.utils.formats import date_format

from kessa.places.models import Point
from kessa.results.queries import ResultQuery
from kessa.ui.fields import choices_of
from kessa.ui.widgets import PlainSelect
from kessa_core.quantities import parameters
from kessa_core.runs import WITHOUT_FIGURE

SIGNS = [
    ("", "any verdict"),
    ("within", "● within limit"),
    ("close", "◐ too close to call"),
    ("beyond", "◆ outside limit"),
    ("none", "○ no result or no limit"),
    *((how, f"○ {words}") for how, words in WITHOUT_FIGURE.items()),
]


DAY = forms.DateInput({"type": "date", "class": "input"})


class LogFilter(forms.Form):
    """Point, parameter, verdict, first and last day."""

    point = forms.TypedChoiceField(required=False, coerce=int, empty_value=None, widget=PlainSelect)
    parameter = forms.ChoiceField(required=False, widget=PlainSelect)
    sign = forms.ChoiceField(choices=SIGNS, required=False, label="Verdict", widget=PlainSelect)
    first = forms.DateField(required=False, label="From", widget=DAY)
    last = forms.DateField(required=False, label="To", widget=DAY)

    def __init__(self, data: Any, points: Iterable[Point]) -> None:
        super().__init__(data)
        places = [(str(point.pk), str(point)) for point in points]
        choices_of(self, "point").choices = [("", "all points"), *places]
        named = [(key, found.name) for key, found in parameters().items()]
        choices_of(self, "parameter").choices = [("", "all parameters"), *named]

    @property
    def in_words(self) -> str:
        """What is asked for, in a line: "Beck, at the ford, from 1 March"."""
        self.is_valid()
        asked = {name: value for name, value in self.cleaned_data.items() if value}
        said = [
            dict(cast("list[tuple[str, str]]", choices_of(self, name).choices))[str(asked[name])]
            for name in ("point", "parameter", "sign")
            if name in asked
        ]
        days = (("from", asked.get("first")), ("to", asked.get("last")))
        said += [f"{word} {date_format(day, 'j F Y')}" for word, day in days if day]
        return ", ".join(said) or "all results"

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
        error_messages={"required": "Choose accept, return or reject."},
    )
    reason = forms.CharField(max_length=500, required=False)
    evaluation = forms.IntegerField(min_value=1, max_value=2**62)
    last = forms.IntegerField(min_value=0, max_value=2**62)


class AnswerForm(forms.Form):
    """The analyst's answer to a returned result."""

    answer = forms.CharField(
        max_length=500, error_messages={"required": "Enter your answer to the reviewer."}
    )
