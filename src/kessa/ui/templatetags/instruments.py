"""Places in a drawing: along a line, in rows, on a logarithmic scale."""

from collections.abc import Iterable
from math import log
from textwrap import wrap
from typing import get_args

from django import template

from kessa.ui.instruments import Instrument
from kessa_core.describing.timeline import wait_words
from kessa_core.methods.steps import Picture, Step, Window
from kessa_core.readings.scale import Scale

register = template.Library()
COUNTED = "count"
"""The picture of a step that shows its own instrument."""


@register.filter
def along(share: float, ends: str) -> str:
    """Where a share from 0 to 1 lies between two coordinates: "40 340"."""
    first, last = _ends(ends)
    return f"{first + (last - first) * share:.1f}"


@register.filter
def row(number: int, layout: str) -> str:
    """Where row *number* lies, the first at 0: "start height"."""
    start, height = _ends(layout)
    return f"{start + height * number:.1f}"


@register.filter
def share_of(number: int, count: int) -> float:
    """A place among *count*, from 0 for the first to 1 for the last."""
    return number / (count - 1) if count > 1 else 0.0


@register.filter
def plus(place: str | float, more: str | float) -> str | int:
    """A place a little further on."""
    moved = float(place) + float(more)
    return int(moved) if moved.is_integer() else f"{moved:.1f}"


@register.filter
def column(number: int, layout: str) -> int:
    """Across, in rows of so many: "first width each"."""
    first, width, each = (int(part) for part in layout.split())
    return first + width * (number % each)


@register.filter
def line(number: int, layout: str) -> int:
    """Down, in rows of so many: "first height each"."""
    first, height, each = (int(part) for part in layout.split())
    return first + height * (number // each)


@register.filter
def from_one(count: int) -> range:
    """1 to *count*."""
    return range(1, count + 1)


@register.filter
def place_of(shade: int, instrument: Instrument) -> int:
    """The place on its scale of a shade, counted from 0."""
    gaps = len(instrument.part.shades) - 1
    main = instrument.main
    return shade * (main.scale.high // gaps) if main else shade


@register.filter
def is_even(number: int) -> bool:
    """Whether every second one is meant."""
    return number % 2 == 0


@register.filter
def by_log(marks: Iterable[str], ends: str) -> list[tuple[str, str]]:
    """Marks with their places between two coordinates, by the logarithm of their figures."""
    figures = [log(float(mark)) for mark in marks]
    span = figures[-1] - figures[0]
    return [
        (mark, along((figure - figures[0]) / span, ends))
        for mark, figure in zip(marks, figures, strict=True)
    ]


@register.filter
def wheels(scale: Scale, layout: str) -> list[tuple[str, int]]:
    """For every digit of a display: its middle, and the places it steps. layout: where the last
    digit ends, and how wide one is."""
    right, width = _ends(layout)
    found = []
    for power in range(len(str(scale.high * scale.every))):
        by, rest = divmod(10**power, scale.every)
        gap = 1 if scale.decimals and power >= scale.decimals else 0
        if not rest and by:
            found.append((f"{right - width * (power + gap + 0.5):.1f}", by))
    return found[::-1]


@register.simple_tag
def drawn_pictures() -> list[str]:
    """The templates of all pictures of steps."""
    return [_picture(name) for name in get_args(Picture) if name != COUNTED]


@register.filter
def has_picture(step: Step) -> bool:
    """Whether a picture of the step is drawn; a count shows its own instrument."""
    return bool(step.picture) and step.picture != COUNTED


@register.filter
def picture_of(step: Step) -> str:
    """The template of its picture."""
    return _picture(str(step.picture))


def _picture(name: str) -> str:
    return f"ui/pictures/{name}.html"


register.filter("wait_words", wait_words)

PH_UNIT = 260 / 14
"""One pH unit on the drawn scale, which runs from 20 to 280."""


@register.filter
def on_ph_scale(ph: str) -> str:
    """Where a pH lies on the drawn scale."""
    return f"{20 + float(ph) * PH_UNIT:.1f}"


@register.filter
def ph_width(window: Window) -> str:
    """How wide a window of pH is on the drawn scale."""
    return f"{(float(window.high) - float(window.low)) * PH_UNIT:.1f}"


@register.filter
def lines(text: str, width: int) -> list[str]:
    """A sentence in lines of so many letters, two at most."""
    return wrap(text, width, max_lines=2, placeholder=" …")


def _ends(text: str) -> tuple[float, float]:
    first, last = (float(end) for end in text.split())
    return first, last
