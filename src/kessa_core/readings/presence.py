"""Present or absent: one look at a portion after its wait.

A portion with N organisms (or so many of what is looked for) shows nothing with probability
missed ** N, and one without any shows the sign all the same with probability false_alarm. What is
left possible is every N for which a reading like this one is not rarer than 5 %.
"""

from collections.abc import Sequence
from decimal import Decimal
from functools import cached_property
from math import inf
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from kessa_core.documents import NamedColour, Part, Short
from kessa_core.influences import LEVEL
from kessa_core.influences.part import ScaledUncertainties, SourceInfo
from kessa_core.quantities import Interval, Value
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import ReadingType
from kessa_core.readings.scale import Scale
from kessa_core.readings.scale_model import ScaleModel

RARE = 1 - LEVEL
MOST = 200
"""Up to so many in a portion are considered."""


class Rates(Part):
    """How often the sign is wrong, and who says so."""

    missed: float = Field(
        ge=0, le=0.9, description="The share of portions with one of it that show nothing."
    )
    false_alarm: float = Field(
        ge=0, le=0.5, description="The share of portions without any that show the sign."
    )
    source: Literal["maker", "replicates", "default"]


class PresencePart(Part):
    """What is looked at, and what it looks like without and with what is looked for."""

    by: Literal["presence"]
    portion: Short = Field(description="What is looked at, such as 100 mL.")
    absent: Short = Field(description="What it looks like when there is none.")
    present: Short = Field(description="The sign that there is some.")
    absent_colour: NamedColour
    present_colour: NamedColour
    lamp: bool = Field(default=False, description="Looked at under an ultraviolet lamp.")
    rates: Rates


class Presence(ReadingType):
    """Present or absent."""

    by = "presence"
    words = "present or absent"
    photographed = "The whole vessel in one picture, its label in view."
    document = PresencePart
    step = "one look"
    knows: ClassVar[dict[str, SourceInfo]] = {}

    @property
    def portion(self) -> str:
        """What is looked at."""
        return str(self.part.portion)

    def scale(self, slot: str) -> Scale:
        """Absent, present."""
        return Scale(slot, 0, 1, labels=("absent", "present"))

    def number(self, seen: Reading) -> Decimal:
        """Nought, or at least one."""
        return Decimal(int(seen.n))

    def at(self, half_steps: int) -> float:
        """Nought, or at least one."""
        return half_steps / 2

    def chance(self, seen: Reading, count: int) -> float:
        """The probability of this look at a portion that holds *count*."""
        rates = self.part.rates
        shows = 1 - (1 - rates.false_alarm) * rates.missed**count
        return float(shows if seen.n else 1 - shows)

    def drawn(self, count: float, rng: np.random.Generator) -> Reading:
        """What is seen of a portion that holds *count*."""
        return Reading(int(rng.random() < self.chance(Reading(1), round(count))))

    @cached_property
    def model(self) -> ScaleModel:
        """Two places; what they leave possible, possible() says."""
        return ScaleModel(((0.0, 0.0), (1.0, 1.0)), 2, ScaledUncertainties(steps=0.1))

    def interval(self, every: Sequence[Reading], blanks: Sequence[Reading] = ()) -> Interval:
        """What is possible in the portion."""
        low, high = self.possible(every)
        return Interval(float(low), None if high == inf else high)

    def possible(self, every: Sequence[Reading]) -> tuple[int, float]:
        """The fewest and the most in a portion for which looks like these are not too rare."""
        counts = [n for n in range(MOST + 1) if self._together(every, n) > RARE]
        most = counts[-1] if counts else MOST
        return (counts[0] if counts else 0), inf if most == MOST else most

    def _together(self, every: Sequence[Reading], count: int) -> float:
        """The probability of the rarer of these looks, as seldom as it was seen."""
        return float(np.prod([self.chance(seen, count) for seen in every]))

    def value(
        self, used: Sequence[Reading], every: Sequence[Reading], blanks: Sequence[Reading] = ()
    ) -> Value:
        """Present or absent in the portion, with what else is possible."""
        low, high = self.possible(every)
        word = ("absent", "present")[int(used[0].n)]
        return Value(
            self.measures.quantity,
            float(used[0].n),
            0,
            self.interval(every),
            how=self.words,
            said=word,
            said_range=self._range_words(low, high),
        )

    def _range_words(self, low: int, high: float) -> str:
        if high == 0:
            return f"none in {self.part.portion}"
        if high == inf:
            return f"at least {low} in {self.part.portion}" if low else "cannot be told"
        return f"{low} to {high:g} in {self.part.portion}"

    def working(self, used: Sequence[Reading], blanks: Sequence[Reading], value: Value) -> str:
        """What was seen."""
        said = (self.part.absent, self.part.present)[int(used[0].n)]
        return f"{said}: {value.said}"
