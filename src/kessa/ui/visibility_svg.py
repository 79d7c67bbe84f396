"""What a method can tell of a limit, as a strip: along the values that it reads, the stretches that
are called within, too close to call, and beyond, with a tick at the limit."""

from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from kessa_core.judging.can_see import Visibility
from kessa_core.quantities import Value

WIDTH = 240
LEAST = 3.0
"""A stretch of one reading has to be seen too."""
BEYOND_THE_LIMIT = 2.0
"""How far past the limit the strip goes, where the scale goes that far."""


def visibility_svg(told: Visibility) -> SafeString:
    """The strip with the words for those who do not see it."""
    bounds = [float(bound) for bound in (told.limit.min, told.limit.max) if bound is not None]
    longest = max(_number(told, told.stretches[-1].last), *bounds) * 1.04
    top = min(longest, max(bounds) * BEYOND_THE_LIMIT) or 1.0

    def x(number: float) -> float:
        return min(max(number / top, 0.0), 1.0) * WIDTH

    label = escape(f"{told.words}. {told.sentence}")
    parts = [f'<svg class="strip" viewBox="0 0 {WIDTH} 26" role="img" aria-label="{label}">']
    for stretch in told.stretches:
        left, right = x(_number(told, stretch.first)), x(_number(told, stretch.last))
        if left >= WIDTH and stretch is not told.stretches[-1]:
            continue
        width = max(right - left, LEAST)
        left = min(left, WIDTH - width)
        parts.append(
            f'<rect class="{stretch.sign}" x="{left:.1f}" y="7" width="{width:.1f}" height="12"/>'
        )
    parts.append(f'<line class="axis" x1="0" x2="{WIDTH}" y1="19" y2="19"/>')
    for bound in bounds:
        at = f"{x(bound):.1f}"
        parts.append(f'<line class="tick" x1="{at}" x2="{at}" y1="2" y2="24"/>')
    parts.append("</svg>")
    return mark_safe("".join(parts))  # noqa: S308 - numbers, fixed parts and an escaped label


def _number(told: Visibility, value: Value) -> float:
    return value.converted(basis=told.limit.basis, unit=told.limit.unit).number
