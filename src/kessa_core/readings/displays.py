"""Readings of a display or a finely marked scale: one figure, straight or by a curve, to a value.

What the principles with a numeric scale share; each of them says how a place on its scale becomes a
value (`curve`), and what its display shows.
"""

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from functools import cached_property
from math import floor, inf
from typing import ClassVar

import numpy as np

from kessa_core.influences.part import EYE, PORTION, SourceInfo
from kessa_core.quantities import parameter
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import Lookup, ReadingType
from kessa_core.readings.scale_model import ScaleModel

KNOTS = 160

CALIBRATION = SourceInfo("relative", "the instrument’s calibration")
NOISE = SourceInfo("steps", "how the display wanders")
ZERO = SourceInfo("steps", "where the zero stands")


class WithInstrument(ReadingType):
    """What the display of an instrument shows: its document part names the instrument."""

    photographed = "The whole display, figure and unit."

    @property
    def instrument(self) -> str:
        return str(self.part.instrument)


class Display(ReadingType):
    """A figure read from a scale. Subclasses give scale() and curve()."""

    wide = True
    step = "one digit of the display"
    knows: ClassVar = {
        "calibration": CALIBRATION,
        "noise": NOISE,
        "zero": ZERO,
        "portion": PORTION,
        "eye": EYE,
    }

    def curve(self, n: float) -> float:
        """The value at a place on the scale, in the unit of the stage."""
        raise NotImplementedError

    @property
    def lookup(self) -> Lookup:
        """By bands where its scale is too long for rows."""
        return "band" if super().lookup == "later" and self.weights() else super().lookup

    @property
    def foot(self) -> float:
        """The lowest place up to which a truth is considered."""
        first = self.reach[0]
        return 0 if self.main.under and first > 0 else first

    @property
    def room(self) -> float:
        """Steps above the scale's top up to which a truth is considered."""
        return 0.25 * (self.main.high - self.main.low)

    @cached_property
    def model(self) -> ScaleModel:
        """The forward model along the scale, in its own steps."""
        first, last = self.foot, self.reach[1]
        places = np.linspace(first, last + self.room, KNOTS)
        if first < 0 < last:
            places = np.unique(np.append(places, 0.0))
        knots = _rising([(float(u), self.curve(float(u))) for u in places])
        if not parameter(self.measures.parameter).signed:
            knots = _from_zero(knots)
        return ScaleModel(tuple(knots), int(last - first) + 1, self.spread)

    def position(self, seen: Reading) -> float:
        """The place on the scale that was seen, in its own steps, from all the slots together."""
        return seen.n

    def half_steps(self, seen: Reading) -> int:
        """Two for a step of the scale, whole."""
        return floor(2 * self.position(seen) + 0.5)

    def weights(self) -> dict[str, int]:
        """halves() as a sum over the slots."""
        return {self.reading_fields[-1]: 2}

    def edges(self, seen: Reading) -> tuple[float, float]:
        """Half a step to both sides; at an end of the scale that cannot be passed, open."""
        at = self.position(seen)
        if seen.kind == "beyond":
            return at + 0.5, inf
        if seen.kind == "below":
            return -inf, at - 0.5
        first, last = self.reach
        low = -inf if at <= first and not self.main.under else at - 0.5
        return low, inf if at >= last and not self.main.over else at + 0.5

    def seen_at(self, u: float) -> Reading:
        """Rounded to the nearest step; above the top it says so."""
        first, last = self.reach
        at = floor(u + 0.5)
        if at > last and self.main.over:
            return replace(self.example(last), kind="beyond")
        if at < first and self.main.under:
            return replace(self.example(first), kind="below")
        return self.example(min(max(at, first), last))

    def at(self, half_steps: int) -> float:
        """The value at this many half steps."""
        return self.curve(half_steps / 2)

    def number(self, seen: Reading) -> Decimal:
        """The value at the place that was seen."""
        return Decimal(repr(round(self.curve(float(self.position(seen))), 9)))


def _rising(knots: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Knots whose values rise; a curve that stands still (below a zero) keeps its last point."""
    kept: list[tuple[float, float]] = []
    for u, x in knots:
        if kept and x <= kept[-1][1]:
            kept[-1] = (u, kept[-1][1]) if len(kept) == 1 else kept[-1]
            continue
        kept.append((u, x))
    return kept


def _from_zero(knots: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Knots from where the value is zero on: nothing below it exists."""
    kept = [knot for knot in knots if knot[1] >= 0]
    before = [knot for knot in knots if knot[1] < 0]
    if not before or not kept or kept[0][1] == 0:
        return kept
    (u, x), (v, y) = before[-1], kept[0]
    return [(u - x * (v - u) / (y - x), 0.0), *kept]
