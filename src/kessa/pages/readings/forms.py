"""What somebody reads from a photograph."""

from typing import Any

from django import forms

from kessa_core.readings.scale import Scale


class PhotoForm(forms.Form):
    """A place on the scale, or why the photograph cannot be read."""

    raw = forms.CharField(max_length=40, required=False, label="Reading")
    sure = forms.BooleanField(required=False, label="It shows exactly that, between two steps")
    unreadable = forms.CharField(max_length=120, required=False, label="Cannot be read, because")

    def __init__(self, data: Any, scale: Scale) -> None:
        super().__init__(data)
        if scale.labels:
            ends = [(">", "above the last")] if scale.over else []
            below = [("<", "below the first")] if scale.under else []
            named = [(label, f"{label} {scale.unit}".strip()) for label in scale.labels]
            self.fields["raw"] = forms.ChoiceField(
                choices=[("", "What you see"), *below, *named, *ends],
                required=False,
                label="Reading",
            )

    def clean(self) -> dict[str, Any]:
        """Either of the two."""
        given = super().clean() or {}
        if not self.errors and not given.get("raw") and not given.get("unreadable"):
            self.add_error("raw", "Say what you read, or why it cannot be read.")
        return given
