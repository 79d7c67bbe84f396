"""What is asked about a standard that was measured with a lot."""

from collections.abc import Sequence
from datetime import date
from typing import Any

from django import forms
from django.utils import timezone

from kessa.library.lot_forms import DAY
from kessa.library.models import Instrument, Lot
from kessa.platform import clock
from kessa.ui.fields import choices_of
from kessa_core.methods import Method
from kessa_core.quality.agreement import recovery
from kessa_core.runs.standards import Recovery

WINDOW = (90, 110)
"""Percent, where the method names no window."""


class StandardForm(forms.Form):
    """Which method, what the standard holds, what was found, and the window."""

    method = forms.ChoiceField(label="Measured with")
    standard = forms.ChoiceField(required=False, label="Standard")
    known = forms.FloatField(
        required=False, min_value=0.0001, max_value=1_000_000, label="It holds"
    )
    found = forms.FloatField(
        min_value=0,
        max_value=1_000_000,
        label="Found",
        help_text="In the unit that the method reports.",
        error_messages={"required": "Enter what was found of it."},
    )
    on = forms.DateField(label="Date", error_messages=DAY | {"required": "Enter the date."})
    low = forms.IntegerField(min_value=1, max_value=200, label="Passes from, %")
    high = forms.IntegerField(min_value=1, max_value=200, label="to, %")
    instrument = forms.ChoiceField(required=False, label="Read with")

    def __init__(
        self,
        data: Any,
        methods: Sequence[Method],
        standards: Sequence[Lot],
        instruments: Sequence[Instrument],
    ) -> None:
        rule = next((s.standard for m in methods for s in m.stages if s.standard), None)
        low, high = (rule.low_percent, rule.high_percent) if rule else WINDOW
        today = timezone.localdate(clock.now()).isoformat()
        super().__init__(data, initial={"low": low, "high": high, "on": today})
        self.standards = {str(lot.pk): lot for lot in standards}
        self.instruments = {str(one.pk): one for one in instruments}
        choices_of(self, "method").choices = [(one.id, one.title) for one in methods]
        choices_of(self, "standard").choices = [
            ("", "another one"),
            *((key, _holding(lot)) for key, lot in self.standards.items()),
        ]
        choices_of(self, "instrument").choices = [
            ("", "no instrument"),
            *((key, str(one)) for key, one in self.instruments.items()),
        ]

    def clean_on(self) -> date:
        """Not in the future."""
        on: date = self.cleaned_data["on"]
        if on > timezone.localdate(clock.now()):
            raise forms.ValidationError("This day has not come yet.")
        return on

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        data["standard"] = self.standards.get(data.get("standard") or "")
        data["instrument"] = self.instruments.get(data.get("instrument") or "")
        if data["standard"] and not data.get("known"):
            data["known"] = data["standard"].content
        if not data.get("known"):
            self.add_error("known", "Enter what the standard holds, or choose its lot.")
        low, high = data.get("low"), data.get("high")
        if low and high and low >= high:
            self.add_error("high", "The window has to rise.")
        return data

    def recovery(self) -> Recovery:
        """What it came to. The form is valid."""
        d = self.cleaned_data
        words = f"standard {d['known']:g} found {d['found']:g}"
        return Recovery(words, recovery(d["found"], d["known"]), d["low"], d["high"])


def _holding(lot: Lot) -> str:
    return f"{lot.reagent}, lot {lot.number}: {lot.content:g} {lot.content_unit}"
