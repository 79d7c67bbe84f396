"""What is asked about an instrument and about a check of it."""

from collections.abc import Sequence
from typing import Any

from django import forms
from django.utils import timezone

from kessa.library.lot_forms import DAY, shown
from kessa.library.models import Instrument, InstrumentCheck, Lot
from kessa.platform import clock
from kessa.ui.fields import choices_of
from kessa.ui.widgets import ChoiceRow, TickRow
from kessa_core.methods import Method


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
        super().__init__(data, initial=shown(instrument, names) if instrument else None)
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


class CheckForm(forms.Form):
    """A verification, calibration or service of an instrument."""

    kind = forms.ChoiceField(
        choices=InstrumentCheck.Kind.choices,
        widget=ChoiceRow,
        initial=InstrumentCheck.Kind.VERIFIED,
        label="What was done",
        error_messages={"required": "Choose what was done."},
    )
    on = forms.DateField(label="Date", error_messages=DAY | {"required": "Enter the date."})
    against = forms.ChoiceField(required=False, label="Standard or buffer used")
    expected = forms.CharField(required=False, max_length=40, label="It should show")
    found = forms.CharField(required=False, max_length=40, label="It showed")
    passed = forms.ChoiceField(
        choices=(("yes", "passed"), ("no", "failed")),
        widget=ChoiceRow,
        label="Outcome",
        error_messages={"required": "Say whether it passed."},
    )
    due = forms.DateField(required=False, label="Next check due", error_messages=DAY)
    done_by = forms.CharField(required=False, max_length=80, label="Done by, if another person")
    note = forms.CharField(
        required=False,
        max_length=240,
        label="Certificate or note",
        help_text="Certificate number, slope and offset, what was adjusted.",
    )

    def __init__(self, data: Any, lots: Sequence[Lot]) -> None:
        super().__init__(data, initial={"on": timezone.localdate(clock.now()).isoformat()})
        self.lots = {str(lot.pk): lot for lot in lots}
        choices_of(self, "against").choices = [
            ("", "none"),
            *((key, f"{lot.reagent}, lot {lot.number}") for key, lot in self.lots.items()),
        ]

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if "passed" in data:
            data["passed"] = data["passed"] == "yes"
        data["against"] = self.lots.get(data.get("against", ""))
        on, due = data.get("on"), data.get("due")
        if on and due and due <= on:
            self.add_error("due", "The next check comes after this one. Check both dates.")
        return data
