"""The gauge as SVG. Lists draw dozens, and a template takes fifteen times as long for each."""

from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from kessa.ui.gauges import GaugeView

MARKS = {
    "close": '<circle class="hole" r="6"/><path class="mark" d="M0 -6 a6 6 0 0 1 0 12z"/>',
    "beyond": '<path class="mark" d="M0 -7 L7 0 L0 7 L-7 0z"/>',
    "within": '<circle class="mark" r="5.5"/>',
    "none": '<rect class="mark" x="-2.5" y="-6" width="5" height="12"/>',
}
"""The mark of each verdict by shape; one off the scale is an arrow."""
OFF_SCALE = '<path class="mark" d="M-10 -6 L1 0 L-10 6 z"/>'


def gauge_svg(drawn: GaugeView) -> SafeString:
    """Tint, axis, ticks, usual, whisker and mark, with the words for those who do not see it."""
    sign = drawn.gauge.sign
    parts = [f'<svg class="gauge fill-{sign}" role="img" aria-label="{escape(drawn.label)}">']
    if drawn.tint:
        parts.append(_bar("tint", drawn.tint, "8", "10"))
    parts.append('<line class="axis" x1="0" x2="100%" y1="13" y2="13"/>')
    for tick in drawn.ticks:
        at = _percent(tick)
        parts.append(f'<line class="tick" x1="{at}" x2="{at}" y1="3" y2="23"/>')
    if drawn.usual:
        parts.append(_bar("usual", drawn.usual, "4", "18"))
    if drawn.whisker:
        parts.append(_bar("whisker", drawn.whisker, "10.5", "5"))
    if drawn.mark is not None:
        mark = OFF_SCALE if drawn.gauge.over else MARKS[sign]
        parts.append(f'<svg x="{_percent(drawn.mark)}" y="13" overflow="visible">{mark}</svg>')
    parts.append("</svg>")
    return mark_safe("".join(parts))  # noqa: S308 - numbers, fixed parts and an escaped label


def _bar(name: str, span: tuple[int, int], top: str, height: str) -> str:
    left, width = span
    return (
        f'<rect class="{name}" x="{_percent(left)}" y="{top}" width="{_percent(width)}" '
        f'height="{height}"/>'
    )


def _percent(thousandths: int) -> str:
    return f"{thousandths / 10:g}%"
