"""Sight: a disc on a rope, a tube with a mark that vanishes.

Disc: depth where it vanishes and where it returns, the mean, in metres; seen on the bottom is
"> depth". Tube: its scale is logarithmic, read to the mark on the side that the maker says.
"""

from collections.abc import Sequence
from decimal import Decimal
from functools import cached_property
from itertools import pairwise
from math import ceil, floor, inf
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from kessa_core.documents import Figure, Part
from kessa_core.influences.part import EYE, SourceInfo
from kessa_core.quantities import Value
from kessa_core.readings.displays import Display
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import ReadingType
from kessa_core.readings.scale import Scale
from kessa_core.readings.scale_model import ScaleModel


class SecchiDiscPart(Part):
    """A disc on a marked rope."""

    by: Literal["disc"]
    mark_cm: int = Field(ge=1, le=50, description="The finest part of the rope that is read.")
    rope_m: int = Field(ge=1, le=50)


class SecchiDisc(Display):
    """Lower it until it vanishes, raise it until it returns."""

    by = "disc"
    over_says = "Still seen on the bottom"
    over_anywhere = True
    words = "disc on a rope"
    document = SecchiDiscPart
    slots = ("vanishes", "returns")
    step = "one mark of the rope"
    knows: ClassVar = {
        "eye": EYE,
        "rope": SourceInfo("relative", "how true the rope is"),
        "waves": SourceInfo("relative", "waves, and how straight the rope hangs"),
        "light": SourceInfo("steps", "light and glare that day"),
    }
    needs = frozenset({"eye"})

    def scale(self, slot: str) -> Scale:
        """The rope, in metres to the centimetre; on the bottom is above what can be seen."""
        high = 100 * self.part.rope_m // self.part.mark_cm
        ends = slot == "vanishes"
        return Scale(slot, 0, high, 2, "m", every=self.part.mark_cm, over=ends, over_asks=ends)

    def curve(self, n: float) -> float:
        """Metres."""
        return self.main.figure(n)

    def example(self, position: int) -> Reading:
        """Gone and back at the same mark."""
        return Reading(position, beside=(("vanishes", position),))

    def position(self, seen: Reading) -> float:
        """The mean of both depths, in marks."""
        return (seen.n + self._down(seen)) / 2

    def _down(self, seen: Reading) -> float:
        return seen.slot("vanishes", seen.n)

    def weights(self) -> dict[str, int]:
        """Both depths count the same."""
        return {"vanishes": 1, "returns": 1}

    def edges(self, seen: Reading) -> tuple[float, float]:
        """Half a mark to both sides of the mean; on the bottom: deeper than that."""
        at = self.position(seen)
        if seen.kind == "beyond":
            return at, inf
        return (at - 0.5 if at > 0 else -inf), at + 0.5

    def number(self, seen: Reading) -> Decimal:
        """The mean of both, in metres."""
        return Decimal(repr(self.position(seen))) * Decimal(self.part.mark_cm) / 100

    def format_reading(self, seen: Reading) -> str:
        """ "1.35 m down, 1.25 m up"."""
        scale = self.main
        if seen.kind == "beyond":
            return f"still seen on the bottom at {scale.say(seen.n)} m"
        return f"{scale.say(self._down(seen))} m down, {scale.say(seen.n)} m up"

    def working(self, used: Sequence[Reading], blanks: Sequence[Reading], value: Value) -> str:
        """ "mean of 1.35 m down, 1.25 m up = 1.30 m"."""
        if value.qualifier:
            return super().working(used, blanks, value)
        return f"mean of {'; '.join(self.format_reading(seen) for seen in used)} = {value.text}"


class TurbidityTubePart(Part):
    """A tube with a mark at its foot and a scale in turbidity units on its side."""

    by: Literal["tube"]
    marks: tuple[Figure, ...] = Field(
        min_length=3, max_length=40, description="The printed marks, from the full tube down."
    )
    side: Literal["next-higher", "next-lower"] = Field(
        description="Between two marks: which one the maker has you read."
    )

    @model_validator(mode="after")
    def _rising(self) -> "TurbidityTubePart":
        values = [float(mark) for mark in self.marks]
        if values[0] <= 0 or any(b <= a for a, b in pairwise(values)):
            raise ValueError("marks must rise, from the full tube to the short one")
        return self


ROOM = 1.5
"""Beyond both ends of the tube, as a factor in turbidity."""


class TurbidityTube(ReadingType):
    """Pour little by little, look straight down, stop when the mark just goes."""

    by = "tube"
    words = "sight tube"
    document = TurbidityTubePart
    step = "one mark of the tube"
    knows: ClassVar = {
        "eye": EYE,
        "light": SourceInfo("relative", "light that day"),
        "tube": SourceInfo("relative", "how this tube’s scale is printed"),
    }
    needs = frozenset({"eye"})

    @cached_property
    def values(self) -> tuple[Decimal, ...]:
        """The printed marks, rising in turbidity."""
        return tuple(Decimal(mark) for mark in self.part.marks)

    def scale(self, slot: str) -> Scale:
        """Marks by their number, from the full tube; still seen in the full tube is below it."""
        names = tuple(self.part.marks)
        unit = self.measures.unit
        return Scale(slot, 0, len(names) - 1, unit=unit, labels=names, over=True, under=True)

    def edges(self, seen: Reading) -> tuple[float, float]:
        """A whole gap on the side that the maker has you read away from."""
        at = float(seen.n)
        if seen.kind == "beyond":
            return at, inf
        if seen.kind == "below":
            return -inf, at
        if self.part.side == "next-higher":
            return (at - 1, at) if at else (-0.5, 0.0)
        return at, at + 1

    def format_reading(self, seen: Reading) -> str:
        """ "30 NTU", "still seen in the full tube"."""
        if seen.kind == "below":
            return "still seen in the full tube"
        if seen.kind == "beyond":
            return "gone before the last mark"
        return f"{self.part.marks[int(seen.n)]} {self.measures.unit}"

    def number(self, seen: Reading) -> Decimal:
        """The mark that the maker has you read."""
        return self.values[int(seen.n)]

    def seen_at(self, u: float) -> Reading:
        """The mark on the maker's side."""
        last = len(self.values) - 1
        if u <= 0:
            return Reading(0, "below")
        if u > last:
            return Reading(last, "beyond")
        return Reading(ceil(u) if self.part.side == "next-higher" else min(floor(u), last - 1))

    @cached_property
    def model(self) -> ScaleModel:
        """The forward model: marks are even steps, turbidity between them logarithmic."""
        values = [float(value) for value in self.values]
        ends = [values[0] / ROOM**2, values[0] / ROOM, *values, values[-1] * ROOM]
        ends.append(values[-1] * ROOM**2)
        knots: list[tuple[float, float]] = []
        for i, (low, high) in enumerate(pairwise(ends)):
            for part in np.linspace(0, 1, 6)[: 5 if i + 2 < len(ends) else 6]:
                knots.append((i - 2 + float(part), float(low * (high / low) ** part)))
        return ScaleModel(tuple(knots), len(values), self.spread)
