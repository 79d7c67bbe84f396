"""Fields of a form by their kind, for what is known only when the form is made."""

from typing import Any, cast

from django import forms


def choices_of(form: forms.BaseForm, name: str) -> forms.ChoiceField:
    """A field of choices, to give it its choices."""
    return cast(forms.ChoiceField, form.fields[name])


def rows_of(form: forms.BaseForm, name: str) -> "forms.ModelChoiceField[Any]":
    """A field of rows to choose from, to give it its rows."""
    return cast("forms.ModelChoiceField[Any]", form.fields[name])
