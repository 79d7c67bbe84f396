"""Fields of the editor in templates."""

from collections.abc import Iterable

from django import template

from kessa_core.drafts.fields import Field

register = template.Library()


@register.filter
def rare_fields(entry: Iterable[Field]) -> list[Field]:
    """The fields of a list's entry that few kits need and nobody filled in."""
    return [field for field in entry if field.rare and not field.given]
