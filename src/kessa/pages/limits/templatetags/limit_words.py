"""How pages say what a limit is for."""

from collections.abc import Iterable

from django import template

from kessa.places.parts import PARTS

register = template.Library()


@register.filter
def parts(keys: Iterable[str]) -> str:
    """Parts of a water in words: "feed water, condensate"."""
    return ", ".join(PARTS.get(key, key) for key in keys)
