"""What is asked about a limit set, about one of its limits, and about where it is to apply."""

from calendar import month_name
from datetime import date, datetime
from typing import Any, get_args

from django import forms
from pydantic import ValidationError

from kessa.places.models import Point, Water
from kessa.places.parts import every_part
from kessa.platform.days import start_of
from kessa.platform.models import Programme
from kessa.ui.fields import choices_of, rows_of
from kessa.ui.widgets import TickRow
from kessa_core.judging.limits import APPLIES_TO, Limit
from kessa_core.judging.set_drafts import Draft, formulas_for, units_for
from kessa_core.methods.suitability import TRAITS
from kessa_core.quantities import parameter
from kessa_core.quantities.parameters import parameters

KINDS = [(one, one) for one in get_args(Limit.model_fields["tier"].annotation)]
ROUNDINGS = [
    ("as reported", "as reported"),
    ("figures of the limit", "to as many figures as the limit has"),
]
MONTHS = [(str(number), month_name[number]) for number in range(1, 13)]
FIGURES = ("min", "max", "fair_min", "fair_max")


class NewSetForm(forms.Form):
    """A set that begins without a limit."""

    title = forms.CharField(
        max_length=80,
        label="Title of the new set",
        error_messages={"required": "Enter a title, such as “Drinking water, our county”."},
    )


class HeadForm(forms.Form):
    """What a set says of itself."""

    title = forms.CharField(max_length=80, label="Title")
    edition = forms.CharField(
        max_length=80, label="Edition", help_text="The year of the rule, or the date of your sheet."
    )
    place = forms.CharField(max_length=80, required=False, label="In force in")
    bar_above = forms.RegexField(
        r"^[0-9]{1,4}(\.[0-9]{1,2})?$", required=False, label="For boilers above, bar",
        error_messages={"invalid": "Enter a pressure, such as 10."},
    )  # fmt: skip
    bar_up_to = forms.RegexField(
        r"^[0-9]{1,4}(\.[0-9]{1,2})?$", required=False, label="For boilers up to, bar",
        error_messages={"invalid": "Enter a pressure, such as 10."},
    )  # fmt: skip
    note = forms.CharField(max_length=240, label="Note")


class LimitForm(forms.Form):
    """One limit for a parameter, whose form, basis and unit can be chosen."""

    name = forms.CharField(
        max_length=80, label="Name", help_text="Short, as it stands beside a value: “long-term”."
    )
    form = forms.ChoiceField(label="Form")
    basis = forms.ChoiceField(label="Expressed as", required=False)
    unit = forms.ChoiceField(label="Unit")
    min = forms.CharField(max_length=13, required=False, label="At least")
    max = forms.CharField(max_length=13, required=False, label="At most")
    formula = forms.ChoiceField(label="Or computed by", required=False)
    tier = forms.ChoiceField(choices=KINDS, label="Kind")
    statistic = forms.ChoiceField(choices=list(APPLIES_TO.items()), label="Applies to")
    rounding = forms.ChoiceField(choices=ROUNDINGS, label="Values are compared")
    document = forms.CharField(
        max_length=240, required=False, label="Document", help_text="With its year. A legal limit "
        "or an action level needs it.",
    )  # fmt: skip
    within = forms.CharField(max_length=240, label="What it means to be within it")
    beyond = forms.CharField(max_length=240, label="What it means to be outside it")
    above = forms.CharField(max_length=240, required=False, label="Above it, if different")
    below = forms.CharField(max_length=240, required=False, label="Below it, if different")
    fair_min = forms.CharField(max_length=13, required=False, label="Graded fair from")
    fair_max = forms.CharField(max_length=13, required=False, label="Graded fair up to")
    fair = forms.CharField(max_length=240, required=False, label="What fair means")
    condition = forms.CharField(
        max_length=240, required=False, label="Condition that Kessa cannot check"
    )
    parts = forms.MultipleChoiceField(
        choices=every_part, required=False, widget=TickRow, label="Only for these parts of a water"
    )
    having = forms.MultipleChoiceField(
        choices=list(TRAITS.items()), required=False, widget=TickRow, label="Only for water that"
    )
    lacking = forms.MultipleChoiceField(
        choices=list(TRAITS.items()), required=False, widget=TickRow, label="Not for water that"
    )
    months = forms.MultipleChoiceField(
        choices=MONTHS, required=False, widget=TickRow, label="Only in these months"
    )
    begins = forms.DateField(required=False, label="First day")
    ends = forms.DateField(required=False, label="Last day")

    def __init__(self, data: Any, said: Draft) -> None:
        initial = {name: said.get(name) for name in self.base_fields}
        initial["rounding"] = said.get("rounding", "as reported")
        super().__init__(data, initial=initial)
        self.said = said
        known = parameter(said["parameter"])
        choices_of(self, "form").choices = [(one, known.name_of(one)) for one in known.forms]
        choices_of(self, "basis").choices = [
            (one, known.species(one).label if one else "–") for one in known.bases
        ] or [("", "–")]
        units = units_for(known.key, said["basis"])
        choices_of(self, "unit").choices = [(one, one) for one in units]
        names = formulas_for(known.key)
        self.has_formulas = bool(names)
        choices_of(self, "formula").choices = [("", "no formula"), *((n, n) for n in names)]

    def clean(self) -> Draft:
        """The limit, with what the document says is wrong beside the field it is about."""
        data = super().clean() or {}
        if not self.errors:
            try:
                Limit.model_validate(self.limit(data))
            except ValidationError as error:
                for one in error.errors():
                    name = str(one["loc"][0]) if one["loc"] else None
                    said = one["msg"].removeprefix("Value error, ")
                    if name in FIGURES:
                        said = "Enter a number, such as 0.5."
                    self.add_error(
                        name if name in self.fields else None, f"{said[0].upper()}{said[1:]}"
                    )
        return data

    def limit(self, data: Draft) -> Draft:
        """What was typed, as a document says it."""
        said: Draft = {"id": self.said["id"], "parameter": self.said["parameter"]}
        for name in self.fields:
            value = data.get(name)
            if name in FIGURES:
                value = str(value or "").replace(",", ".")
            if value not in (None, "", []) or name == "basis":
                said[name] = value.isoformat() if isinstance(value, date) else value
        if said.get("rounding") == "as reported":
            del said["rounding"]
        if "months" in said:
            said["months"] = [int(one) for one in said["months"]]
        return said


class AddForm(forms.Form):
    """For which parameter a limit is added."""

    parameter = forms.ChoiceField(label="Add a limit for")

    def __init__(self, data: Any) -> None:
        super().__init__(data)
        known = sorted(parameters().values(), key=lambda one: one.name)
        choices_of(self, "parameter").choices = [(one.key, one.name) for one in known]


class AttachForm(forms.Form):
    """Where a set is to apply, and from which day on."""

    waters = forms.ModelMultipleChoiceField(
        Water.objects.none(),
        label="Apply at",
        required=False,
        widget=TickRow,
    )
    points = forms.ModelMultipleChoiceField(
        Point.objects.none(), label="Or at single points alone", required=False, widget=TickRow
    )
    begins = forms.DateField(
        required=False,
        label="From",
        help_text="Leave empty to apply it from now on; results of before keep their verdicts.",
        error_messages={"invalid": "Enter a day, such as 2027-03-31, or leave it empty."},
    )

    def __init__(self, data: Any, programme: Programme) -> None:
        super().__init__(data)
        rows_of(self, "waters").queryset = Water.objects.of(programme).order_by("name")
        points = Point.objects.of(programme).select_related("water").order_by("water__name", "pk")
        rows_of(self, "points").queryset = points

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if not data.get("waters") and not data.get("points"):
            self.add_error("waters", "Choose where it is to apply.")
        return data

    @property
    def places(self) -> list[tuple[Water, Point | None]]:
        """The waters that were chosen, and the single points with their waters."""
        said = self.cleaned_data
        return [
            *((water, None) for water in said["waters"]),
            *((point.water, point) for point in said["points"]),
        ]

    @property
    def begin(self) -> datetime | None:
        """The start of the day that was chosen; None: from now on."""
        day = self.cleaned_data["begins"]
        return start_of(day) if day else None
