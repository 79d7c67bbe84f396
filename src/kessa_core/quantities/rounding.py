"""Figures as people read them; the way halves go is always said."""

import math
from decimal import ROUND_CEILING, ROUND_FLOOR, ROUND_HALF_EVEN, ROUND_HALF_UP, Decimal
from functools import lru_cache

WAYS = {
    "half-up": ROUND_HALF_UP,
    "half-even": ROUND_HALF_EVEN,
    "down": ROUND_FLOOR,
    "up": ROUND_CEILING,
}


@lru_cache(maxsize=4096, typed=True)
def rounded(number: float | Decimal, decimals: int, way: str = "half-up") -> Decimal:
    """*number* with *decimals* decimals (negative: tens, hundreds), halves by *way*.

    A float is read by its shortest decimal form, so 0.285 rounds as people expect. Digits past
    the twelfth are taken as noise of the computation, not as a reason to round up or down.
    """
    exact = number if isinstance(number, Decimal) else Decimal(repr(_quiet(number)))
    step = Decimal(1).scaleb(-decimals)
    done = (exact / step).quantize(Decimal(1), rounding=WAYS[way]) * step
    return done.quantize(Decimal(1).scaleb(-max(decimals, 0)))


def figure(number: float | Decimal, decimals: int, way: str = "half-up") -> str:
    """rounded() as text, without exponent and without a negative zero."""
    text = f"{rounded(number, decimals, way):f}"
    return text.removeprefix("-") if float(text) == 0 else text


def span(low: str, high: str) -> str:
    """From one figure to another: "50–58", and "-0.3 to 0.1" where a dash would read as a sign."""
    return f"{low} to {high}" if low.startswith("-") else f"{low}–{high}"


def _quiet(number: float) -> float:
    if number == 0 or not math.isfinite(number):
        return number
    return round(number, 12 - math.floor(math.log10(abs(number))) - 1)


def significant(number: float, figures: int) -> Decimal:
    """*number* rounded to so many significant figures, halves up; nought stays."""
    exact = Decimal(repr(_quiet(number)))
    if not exact:
        return exact
    step = Decimal(1).scaleb(exact.adjusted() - figures + 1)
    near = exact.quantize(step, ROUND_HALF_UP)
    return near if step < 1 else Decimal(int(near))


def at_figures_of(number: Decimal, printed: str) -> Decimal:
    """*number* rounded to as many significant figures as *printed* has, halves up."""
    if not number:
        return number
    figures = len(Decimal(printed).as_tuple().digits)
    return number.quantize(Decimal(1).scaleb(number.adjusted() - figures + 1), ROUND_HALF_UP)
