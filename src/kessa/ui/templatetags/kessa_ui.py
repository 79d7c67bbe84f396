"""The design system's components for templates."""

from datetime import date, datetime
from typing import cast

from django import template
from django.utils.formats import date_format
from django.utils.html import format_html
from django.utils.safestring import SafeString

from kessa.platform.days import short_day
from kessa.ui.gauge_svg import gauge_svg
from kessa.ui.gauges import GaugeView
from kessa.ui.visibility_svg import visibility_svg
from kessa_core.judging.can_see import Visibility
from kessa_core.judging.comparing import Sign
from kessa_core.judging.verdict import WORDS

register = template.Library()

SHAPES = {"within": "●", "close": "◐", "beyond": "◆", "none": "○"}


@register.filter
def in_a_sentence(name: str) -> str:
    """A parameter's name where it does not begin a sentence: "chloride", but "pH" and "E. coli"."""
    return name if name[1:2] == "." else name[:1].lower() + name[1:]


@register.simple_tag
def gauge(drawn: GaugeView) -> SafeString:
    """The gauge: tint, axis, ticks, usual, whisker, mark; with its words."""
    return gauge_svg(drawn)


@register.simple_tag
def visibility(told: Visibility) -> SafeString:
    """What a method can tell of a limit, as a strip; with its words."""
    return visibility_svg(told)


@register.simple_tag
def sign(name: str, words: str = "") -> SafeString:
    """A sign by shape, colour and word."""
    name = name or "none"
    said = words or WORDS[cast(Sign, name)]
    return format_html(
        '<span class="sign {}"><span aria-hidden="true">{}</span> {}</span>',
        name,
        SHAPES[name],
        said,
    )


@register.filter
def shape(name: str) -> str:
    """The sign's shape alone."""
    return SHAPES[name or "none"]


@register.filter
def verdict(name: str) -> str:
    """The sign's word alone."""
    return WORDS[cast(Sign, name or "none")]


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


@register.filter(name="short_day")
def short_day_or_nothing(moment: datetime | date | None) -> str:
    """A day, short: "5 Nov 2026"; nothing of none."""
    return short_day(moment) if moment else ""


@register.filter
def iso_day(text: str) -> str:
    """A day as it is stored in a document, for reading: 1 October 2026."""
    return date_format(date.fromisoformat(text), "j F Y") if text else ""
