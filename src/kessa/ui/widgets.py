"""Choices as rows of targets for a thumb."""

from django import forms


class ChoiceRow(forms.RadioSelect):
    """One choice of a few, as a row of targets for a thumb."""

    template_name = "ui/choice_row.html"


class TickRow(forms.CheckboxSelectMultiple):
    """Any of a few, as a row of targets for a thumb."""

    template_name = "ui/choice_row.html"
