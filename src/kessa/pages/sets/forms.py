"""What is asked about a set: its name, when it is due, who goes, where."""

from calendar import day_name
from collections.abc import Sequence
from typing import Any

from django import forms
from django.utils import timezone

from kessa.library.cases import case_choices
from kessa.people.members import member_choices
from kessa.places.models import Point
from kessa.platform import clock
from kessa.platform.models import Programme
from kessa.ui.fields import choices_of
from kessa.ui.widgets import ChoiceRow, TickRow
from kessa.visits.models import TestSet
from kessa_core.preparing.rhythm import WHICH, OnOccasion, Rhythm, read_rhythm

KINDS = [
    ("weekly", "Every week"),
    ("monthly-weekday", "Every month, on a weekday"),
    ("monthly-day", "Every month, on a day"),
    ("rain", "After heavy rain"),
    ("thaw", "At thaw"),
    ("service", "At each service"),
    ("call", "When asked for"),
]
WEEKDAYS = [(str(number), name) for number, name in enumerate(day_name)]
FEWEST = "Tick at least one point."


class SetForm(forms.Form):
    """A set of tests; its tests are ticked beside it."""

    name = forms.CharField(
        max_length=80,
        label="Name",
        error_messages={"required": "Name the set, such as “Monthly stream round”."},
    )
    kind = forms.ChoiceField(choices=KINDS, widget=ChoiceRow, label="When is it due?")
    weekday = forms.ChoiceField(choices=WEEKDAYS, required=False, label="Weekday")
    which = forms.ChoiceField(
        choices=[(str(key), word) for key, word in WHICH.items()], required=False,
        label="Which one in the month",
    )  # fmt: skip
    day = forms.IntegerField(
        min_value=1, max_value=31, required=False, label="Day of the month",
        help_text="31 is the last day of every month.",
    )  # fmt: skip
    every = forms.IntegerField(
        min_value=1, max_value=24, required=False, label="Every how many weeks or months"
    )
    begins = forms.DateField(label="From", widget=forms.DateInput({"type": "date"}))
    lead = forms.ChoiceField(required=False, label="Who goes")
    companion = forms.ChoiceField(required=False, label="Who goes along")
    case = forms.ChoiceField(required=False, label="Case")
    points = forms.MultipleChoiceField(
        widget=TickRow, label="Points", error_messages={"required": FEWEST}
    )

    def __init__(self, data: Any, programme: Programme, begun: "TestSet | None" = None,
                 points: Sequence[int] = ()) -> None:  # fmt: skip
        super().__init__(data, initial=_initial(begun, points))
        people = [("", "nobody yet"), *member_choices(programme)]
        for name in ("lead", "companion"):
            choices_of(self, name).choices = people
        choices_of(self, "case").choices = [("", "none"), *case_choices(programme)]
        self.places = list(Point.objects.of(programme).for_lists())
        choices_of(self, "points").choices = [(str(one.pk), str(one)) for one in self.places]

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if data.get("kind") == "monthly-day" and not data.get("day") and "day" not in self.errors:
            self.add_error("day", "Enter the day of the month, 1 to 31.")
        if data.get("lead") and data.get("lead") == data.get("companion"):
            self.add_error("companion", "Choose another person, or nobody yet.")
        return data

    def described(self) -> dict[str, Any]:
        """The set's fields, but its tests."""
        said = self.cleaned_data
        return {
            "name": said["name"].strip(),
            "rhythm": self._rhythm().model_dump(),
            "begins": said["begins"],
            "lead_id": int(said["lead"]) if said["lead"] else None,
            "companion_id": int(said["companion"]) if said["companion"] else None,
            "case_id": int(said["case"]) if said["case"] else None,
        }

    def point_ids(self) -> list[int]:
        """The points that were ticked, in their order on the page."""
        ticked = set(self.cleaned_data["points"])
        return [one.pk for one in self.places if str(one.pk) in ticked]

    def _rhythm(self) -> Rhythm:
        said = self.cleaned_data
        kind, every = said["kind"], said["every"] or 1
        if kind == "weekly":
            return read_rhythm({"kind": kind, "weekday": int(said["weekday"] or 0), "every": every})
        if kind == "monthly-weekday":
            where = {"weekday": int(said["weekday"] or 0), "which": int(said["which"] or 1)}
            return read_rhythm({"kind": kind, **where, "every": every})
        if kind == "monthly-day":
            return read_rhythm({"kind": kind, "day": said["day"], "every": every})
        return OnOccasion(occasion=kind)


def _initial(begun: TestSet | None, points: Sequence[int]) -> dict[str, Any]:
    if begun is None:
        today = timezone.localdate(clock.now())
        first = {"kind": "monthly-weekday", "weekday": "5", "which": "-1", "every": 1}
        return first | {"begins": today.isoformat(), "points": [str(one) for one in points]}
    rhythm = dict(begun.rhythm)
    rhythm["kind"] = rhythm.pop("occasion", rhythm["kind"])
    return rhythm | {
        "name": begun.name,
        "begins": begun.begins.isoformat(),
        "lead": begun.lead_id or "",
        "companion": begun.companion_id or "",
        "case": begun.case_id or "",
        "points": [str(one) for one in begun.point_ids],
    }
