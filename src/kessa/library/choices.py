"""Where practitioners differ: the questions of a method as a form."""

from typing import Any

from django import forms

from kessa.ui.widgets import TickRow
from kessa_core.methods import Method
from kessa_core.methods.local_settings import BadChoice, Question, questions, said

WAYS = [("steps", "steps"), ("percent", "%, relative")]


class ChoicesForm(forms.Form):
    """A field for each matter of each stage, and why."""

    why = forms.CharField(
        max_length=200,
        label="Reason",
        error_messages={"required": "Enter a reason. It is saved in the method file."},
    )

    def __init__(self, data: Any, method: Method) -> None:
        super().__init__(data)
        self.method = method
        self.asked = questions(method)
        made = method.local_settings.choices if method.local_settings else ()
        self.kit = {(c.stage, c.matter): c.kit for c in made}
        for question in self.asked:
            self.fields |= _fields(question, self._kit(question))
        self.fields["why"] = self.fields.pop("why")

    def stages(self) -> list[dict[str, Any]]:
        """The stages with their matters: the question, its bound fields, what the kit says."""
        return [
            {
                "stage": stage,
                "matters": [
                    {
                        "question": q,
                        "fields": [self[name] for name in _fields(q)],
                        "kit": said(q, self._kit(q)),
                    }
                    for q in self.asked
                    if q.stage == stage.id
                ],
            }
            for stage in self.method.stages
        ]

    def wanted(self) -> dict[tuple[str, str], str]:
        """The options chosen, by (stage, matter)."""
        return {(q.stage, q.matter): self._said(q) for q in self.asked}

    def _kit(self, question: Question) -> str:
        return self.kit.get((question.stage, question.matter), question.current)

    def _said(self, question: Question) -> str:
        said = [self.cleaned_data[name] for name in _fields(question)]
        if question.matter == "agreement":
            return f"{said[1]} {said[0]}"
        return ",".join(said[0]) if question.several else str(said[0])

    def refuse(self, wrong: BadChoice) -> None:
        """Say what the core did not take, at its field."""
        self.add_error(".".join(wrong.at), str(wrong))


def _fields(question: Question, kit: str = "") -> dict[str, forms.Field]:
    """The fields of a question by their names; the kit's own option says so."""
    name = f"{question.stage}.{question.matter}"
    if question.matter == "agreement":
        way, _, size = question.current.partition(" ")
        return {
            name: forms.CharField(
                max_length=8, label=question.title, initial=size,
                error_messages={"required": "Enter how closely two measurements must agree."},
            ),
            f"{name}.in": forms.ChoiceField(choices=WAYS, label="Counted in", initial=way),
        }  # fmt: skip
    if question.several:
        initial = [one for one in question.current.split(",") if one]
        return {
            name: forms.MultipleChoiceField(
                choices=question.options, required=False, widget=TickRow, label=question.title,
                initial=initial,
            )
        }  # fmt: skip
    options = [(s, f"{words} (the kit)" if s == kit else words) for s, words in question.options]
    field = forms.ChoiceField(choices=options, label=question.title, initial=question.current)
    return {name: field}
