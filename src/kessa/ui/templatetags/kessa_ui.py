"""The design system's components for templates."""

from typing import Any

from django import template

from kessa.ui.gauges import Drawn
from kessa_core.judging.verdict import WORDS

register = template.Library()

SHAPES = {"within": "●", "close": "◐", "beyond": "◆", "none": "○"}


@register.inclusion_tag("ui/gauge.html")
def gauge(drawn: Drawn) -> dict[str, Any]:
    """The gauge: tint, axis, ticks, usual, whisker, mark; with its words."""
    return {"d": drawn, "g": drawn.gauge}


@register.inclusion_tag("ui/sign.html")
def sign(name: str, words: str = "") -> dict[str, str]:
    """A sign by shape, colour and word."""
    name = name or "none"
    return {"name": name, "shape": SHAPES[name], "words": words or WORDS[name]}


@register.filter
def shape(name: str) -> str:
    """The sign's shape alone."""
    return SHAPES[name or "none"]


@register.filter
def verdict(name: str) -> str:
    """The sign's word alone."""
    return WORDS[name or "none"]


@register.filter
def percent(thousandths: int | None) -> str:
    """Thousandths of a gauge's length as a percentage for SVG."""
    return f"{(thousandths or 0) / 10:g}%"


@register.filter
def percent_share(share: float) -> str:
    """A share of one, for reading: "36 %", "under 1 %"."""
    return f"{100 * share:.0f} %" if share >= 0.01 else "under 1 %"


@register.filter
def percent_width(share: float) -> str:
    """A share of one as a width for SVG."""
    return f"{100 * share:.1f}%"


@register.filter
def tenth(number: float) -> str:
    """A coordinate with one decimal."""
    return f"{number:.1f}"
