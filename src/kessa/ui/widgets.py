"""Choices as rows of targets for a thumb."""

from typing import Any

from django import forms
from django.forms.utils import flatatt
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString


class ChoiceRow(forms.RadioSelect):
    """One choice of a few, as a row of targets for a thumb."""

    template_name = "ui/choice_row.html"


class TickRow(forms.CheckboxSelectMultiple):
    """Any of a few, as a row of targets for a thumb."""

    template_name = "ui/choice_row.html"


class PlainSelect(forms.Select):
    """A list to choose from without groups, drawn at once; a template for each of fifty options
    takes longer than the page around them."""

    def render(self, name: str, value: Any, attrs: Any = None, renderer: Any = None) -> SafeString:
        chosen = {str(one) for one in self.format_value(value)}
        options = (
            (key, " selected" if str(key) in chosen else "", label) for key, label in self.choices
        )
        listed = format_html_join("", '<option value="{}"{}>{}</option>', options)
        given = self.build_attrs(self.attrs, {**(attrs or {}), "name": name})
        return format_html("<select{}>{}</select>", flatatt(given), listed)
