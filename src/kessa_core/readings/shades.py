"""Colour against standards: comparators of every build, and the pads of a strip.

Standards c1 .. ck; the eye says equal to one, between two, below the first, above the last. Rules
in use: nearest, half-way, a free estimate between marks, next lower, or the bracket kept as it is.
Above the last is "> ck" and wants a dilution, not a guess.
"""

from collections.abc import Sequence
from decimal import Decimal
from functools import cached_property
from itertools import pairwise
from math import floor, inf
from typing import Any, ClassVar, Literal

from pydantic import Field, model_validator

from kessa_core.documents import Figure, Measurand, NamedColour, Part, Photo
from kessa_core.influences.part import PORTION, SourceInfo
from kessa_core.quantities import Value
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import ReadingType
from kessa_core.readings.scale import Scale
from kessa_core.readings.scale_model import ScaleModel

PARTS = {"nearest": 1, "half": 2, "lower": 2, "bracket": 2, "estimate": 10}
"""Into how many parts a gap between two shades is read, by the rule."""
BETWEEN = {"half": "half-way", "lower": "the next lower shade", "bracket": "the bracket"}
"""What a rule makes of a colour between two shades."""
ROOM = 2
"""Gaps above the last shade up to which a truth is considered."""


class Shade(Part):
    """One standard colour and what it stands for."""

    value: Figure = Field(description="As printed, in quotes.")
    colour: NamedColour
    photo: Photo | None = Field(default=None, description="Of the shade on one's own card.")


class ShadesPart(Part):
    """Standards in rising order, and the rule between two of them."""

    shades: tuple[Shade, ...] = Field(min_length=2, max_length=16)
    rule: Literal["nearest", "half", "estimate", "lower", "bracket"] = "half"
    below_first: bool = Field(default=False, description="Paler than the first can be said.")

    @model_validator(mode="after")
    def _rising(self) -> "ShadesPart":
        values = [float(shade.value) for shade in self.shades]
        if any(b <= a for a, b in pairwise(values)):
            raise ValueError("shades must stand in rising order")
        if self.below_first and values[0] == 0:
            raise ValueError("nothing is paler than a first shade of 0")
        return self


class ComparatorPart(ShadesPart):
    """A comparator: its build, and how it is looked at."""

    by: Literal["comparator"]
    device: Literal["ampoules", "tube", "disc", "card", "cells"] = Field(
        description="Ampoules in a holder, a tube slid between standards, a disc turned, a card "
        "of shades, two cells side by side."
    )


class StripPadPart(ShadesPart):
    """One pad of a strip."""

    by: Literal["strip-pad"]
    pad: int = Field(ge=1, le=8, description="Which pad, counted from the tip.")
    pads: int = Field(ge=1, le=8, description="How many pads the strip has.")


class Shades(ReadingType):
    """What is held against standard colours."""

    over_says = "Darker than the last"
    photographed = "The colour and its standards in one picture, in even daylight."
    under_says = "Paler than the first"

    step = "one shade"
    option_field = "rule"
    option_title = "Between two shades"
    options: ClassVar = {
        "nearest": "the nearest shade",
        "half": "half-way between them",
        "estimate": "a free estimate",
        "lower": "the next lower shade",
        "bracket": "the bracket, kept as it is",
    }
    knows: ClassVar = {
        "eye": SourceInfo("steps", "where the eye sees the colour between two shades"),
        "light": SourceInfo("steps", "light and background"),
        "lot": SourceInfo("relative", "how strong this lot colours"),
        "portion": PORTION,
    }
    needs = frozenset({"eye"})

    @cached_property
    def values(self) -> tuple[Decimal, ...]:
        """What the shades stand for."""
        return tuple(Decimal(shade.value) for shade in self.part.shades)

    @cached_property
    def parts(self) -> int:
        """Readings in one gap."""
        return PARTS[self.part.rule]

    def scale(self, slot: str) -> Scale:
        """Every place that can be said, by name."""
        last = len(self.values) - 1
        names = [self._name(n) for n in range(last * self.parts + 1)]
        return Scale(
            slot, 0, last * self.parts, unit=self.measures.unit, labels=tuple(names),
            over=True, under=self.part.below_first,
        )  # fmt: skip

    def _name(self, n: int) -> str:
        shade, part = divmod(n, self.parts)
        if not part:
            return str(self.part.shades[shade].value)
        low, high = self.part.shades[shade].value, self.part.shades[shade + 1].value
        if self.parts == 2:
            return f"between {low} and {high}"
        between = self._between(n)
        decimals = self.measures.decimals + 1
        return f"{between:.{max(decimals, 0)}f}"

    def _between(self, n: int) -> Decimal:
        shade, part = divmod(n, self.parts)
        if not part:
            return self.values[shade]
        low, high = self.values[shade], self.values[shade + 1]
        return low + (high - low) * part / self.parts

    def format_reading(self, seen: Reading) -> str:
        """ "between 2.0 and 3.0", "above 6.0"."""
        scale = self.scale("reading")
        if seen.kind == "beyond":
            return f"above {self.part.shades[-1].value}"
        if seen.kind == "below":
            return f"below {self.part.shades[0].value}"
        return scale.say(seen.n)

    def edges(self, seen: Reading) -> tuple[float, float]:
        """In shades; half a part to both sides."""
        half = 0.5 / self.parts
        if seen.kind == "beyond":
            return len(self.values) - 1 + half, inf
        if seen.kind == "below":
            return -inf, -half
        at = seen.n / self.parts
        foot = seen.n == 0 and not self.part.below_first
        return (-inf if foot else at - half), at + half

    def seen_at(self, u: float) -> Reading:
        """The nearest part of a gap; paler than the first and stronger than the last say so."""
        last = (len(self.values) - 1) * self.parts
        at = floor(u * self.parts + 0.5)
        if at > last:
            return Reading(last, "beyond")
        if at < 0:
            return Reading(0, "below") if self.part.below_first else Reading(0)
        return Reading(at)

    def at(self, half_steps: int) -> float:
        """The value at this many half parts of a gap."""
        return float(self.model.value_at(half_steps / 2 / self.parts))

    def number(self, seen: Reading) -> Decimal:
        """By the rule; the next lower shade where that is the rule."""
        if seen.kind == "below":
            return self.values[0]
        if seen.kind == "beyond":
            return self.values[-1]
        if self.part.rule == "lower":
            return self.values[int(seen.n) // self.parts]
        return self._between(int(seen.n))

    def bracket(self, seen: Reading) -> tuple[float, float] | None:
        """The two shades it was seen between, where the rule keeps the bracket."""
        if self.part.rule != "bracket":
            return None
        low, part = divmod(int(seen.n), self.parts)
        high = low + (1 if part else 0)
        return float(self.values[low]), float(self.values[high])

    def working(self, used: Sequence[Reading], blanks: Sequence[Reading], value: Value) -> str:
        """ "between 2.0 and 3.0: half-way = 2.5 mg/L"; nothing where a shade itself was seen."""
        between = self.parts == 2 and int(used[0].n) % 2 == 1 and used[0].kind == "plain"
        if len(used) > 1 or not between:
            return super().working(used, blanks, value)
        return f"{self.format_reading(used[0])}: {BETWEEN[self.part.rule]} = {value.text}"

    @cached_property
    def model(self) -> ScaleModel:
        """The forward model along the shades."""
        values = [float(value) for value in self.values]
        knots = [(float(i), value) for i, value in enumerate(values)]
        if values[0] > 0:
            knots.insert(0, (-1.0, 0.0))
        last = len(values) - 1
        knots.append((last + ROOM, values[-1] + ROOM * (values[-1] - values[-2])))
        return ScaleModel(tuple(knots), last * self.parts + 1, self.spread)


class Comparator(Shades):
    """Ampoules, a tube between standards, a disc, a card, two cells."""

    by = "comparator"
    words = "colour comparator"
    document = ComparatorPart


class StripPad(Shades):
    """One pad of a strip, read against the colours on its tin."""

    by = "strip-pad"
    words = "colour strip"
    document = StripPadPart

    @classmethod
    def validation_error(cls, part: Any, measures: Measurand) -> str:
        """A pad has to lie on its strip."""
        return "" if part.pad <= part.pads else "pad must be one of the strip's pads"
