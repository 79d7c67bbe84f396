"""What a stage can report: from where to where, in which steps, and how sure it is along it."""

from collections.abc import Callable
from dataclasses import dataclass

from kessa_core.methods.stage import Stage
from kessa_core.quantities import Value

MOST_STEPS = 60
"""Up to so many places every one is marked on a line."""
LOOKED_AT = (0.15, 0.5, 0.85)
"""Where along the scale the 95 % range is shown."""


@dataclass(frozen=True)
class Mark:
    """A value that it can report, as a share of the line, with its 95 % range as shares."""

    share: float
    figure: str
    low: float
    high: float
    words: str


@dataclass(frozen=True)
class Span:
    """low, high: the ends in words. steps: every value as a share of the line, none where there are
    too many; step: how far apart two neighbours are in the middle; marks: with their ranges."""

    low: str
    high: str
    unit: str
    step: str
    steps: tuple[float, ...]
    marks: tuple[Mark, ...]


def span_of(stage: Stage) -> Span | None:
    """None where a stage has no scale of its own, or is a difference."""
    reader = stage.reader()
    if not reader.has_scale or stage.reference:
        return None
    first, last = reader.reach
    if last <= first:
        return None

    def value(place: int) -> Value:
        seen = reader.example(place)
        return reader.sample_value([seen], [seen], (), stage.base, stage.base)

    ends = value(first), value(last)
    if any(one.said for one in ends):
        return None
    low, high = sorted(ends, key=lambda one: one.number)
    width = high.number - low.number
    if width <= 0:
        return None

    def share(number: float) -> float:
        return min(max((number - low.number) / width, 0.0), 1.0)

    every = range(first, last + 1) if last - first <= MOST_STEPS else ()
    middle = (first + last) // 2
    there = value(middle).number
    beside = (abs(value(n).number - there) for n in range(middle + 1, last + 1))
    step = next((gap for gap in beside if gap), width)
    places = sorted({first + round(part * (last - first)) for part in LOOKED_AT})
    quantity = stage.measures.quantity
    return Span(
        low.figure,
        high.figure,
        "" if quantity.unit == "degree" else quantity.label,
        f"{float(f'{step:.2g}'):g}",
        tuple(sorted(share(value(n).number) for n in every)),
        tuple(_mark(value(n), share, low.number, high.number) for n in places),
    )


def _mark(value: Value, place: Callable[[float], float], low: float, high: float) -> Mark:
    ends = value.interval
    return Mark(
        place(value.number),
        value.figure,
        place(low if ends.low is None else ends.low),
        place(high if ends.high is None else ends.high),
        value.range_text,
    )
