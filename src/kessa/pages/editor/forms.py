"""What is asked before there is a draft, at its publication, and of a file."""

from typing import Any

from django import forms

from kessa.ui.fields import choices_of
from kessa_core.documents.load import MAX_BYTES
from kessa_core.drafts.starts import starts
from kessa_core.methods import Method

NAME = {"required": "Give it a name, such as Sulphite by drops."}


class BeginForm(forms.Form):
    """A name, and what is held in the hand or the kit that is nearest."""

    title = forms.CharField(max_length=80, label="Name of the method", error_messages=NAME)
    held = forms.ChoiceField(required=False, label="What do you hold in your hand?")
    like = forms.ChoiceField(required=False, label="Or begin with a copy of")

    def __init__(self, data: Any, methods: list[Method]) -> None:
        super().__init__(data)
        choices_of(self, "held").choices = [(one.id, one.label) for one in starts().values()]
        listed = sorted(((m.id, m.title) for m in methods), key=lambda one: one[1].lower())
        choices_of(self, "like").choices = [("", "a blank page"), *listed]

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if not data.get("held") and not data.get("like"):
            self.add_error("held", "Choose what you hold, or a kit to begin with.")
        return data


class FileForm(forms.Form):
    """A method file."""

    file = forms.FileField(
        allow_empty_file=True,
        label="Method file",
        error_messages={"required": "Choose a method file."},
    )

    def text(self) -> str:
        """Its text; what is no text becomes marks that the reader refuses."""
        held = self.cleaned_data["file"]
        return str(held.read(MAX_BYTES + 1).decode("utf-8", "replace"))


class PublishForm(forms.Form):
    """What changed."""

    what = forms.CharField(max_length=240, required=False, label="What changed in this version")
