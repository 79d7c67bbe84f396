"""Graded observation: what is seen, as a grade with words (algae, colour, smell, foam, a mark)."""

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from functools import cached_property
from math import ceil, floor, inf
from typing import ClassVar, Literal

from pydantic import Field

from kessa_core.documents import NamedColour, Part, Short
from kessa_core.documents.parts import Line
from kessa_core.influences.part import SourceInfo
from kessa_core.quantities import Interval, Value
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import ReadingType
from kessa_core.readings.scale import Scale
from kessa_core.readings.scale_model import ScaleModel


class Grade(Part):
    """One degree: its word, what it looks like, a colour where that helps."""

    word: Short
    means: Line
    says: Literal["within", "above", "below"] | None = Field(
        default=None, description="The kit's own verdict, where it gives one and no figure."
    )
    colour: NamedColour | None = None


class GradedPart(Part):
    """Degrees, in rising order from 0."""

    by: Literal["graded"]
    draws: Literal["cover", "mark", "foam", "plain"] = Field(
        default="plain", description="What the picture shows: a bed, a mark behind water, foam."
    )
    degrees: tuple[Grade, ...] = Field(min_length=2, max_length=10)


class Graded(ReadingType):
    """The degree that fits best."""

    by = "graded"
    words = "visual grade"
    document = GradedPart
    step = "one degree"
    knows: ClassVar = {"eye": SourceInfo("steps", "how people differ in the grade they choose")}
    needs = frozenset({"eye"})

    def scale(self, slot: str) -> Scale:
        """The degrees by their word."""
        words = tuple(degree.word for degree in self.part.degrees)
        return Scale(slot, 0, len(words) - 1, labels=words)

    def edges(self, seen: Reading) -> tuple[float, float]:
        """The end degrees are open to their side."""
        last = len(self.part.degrees) - 1
        low = seen.n - 0.5 if seen.n else -inf
        return low, (seen.n + 0.5 if seen.n < last else inf)

    def seen_at(self, u: float) -> Reading:
        """The nearest degree; the end ones are open."""
        return Reading(min(max(floor(u + 0.5), 0), len(self.part.degrees) - 1))

    def number(self, seen: Reading) -> Decimal:
        """The degree's number."""
        return Decimal(int(seen.n))

    @cached_property
    def model(self) -> ScaleModel:
        """Degrees are even steps; what lies between two of them is called the nearer."""
        last = float(len(self.part.degrees) - 1)
        knots = ((0.0, 0.0), (last, last))
        return ScaleModel(knots, len(self.part.degrees), self.spread)

    def value(
        self, used: Sequence[Reading], every: Sequence[Reading], blanks: Sequence[Reading] = ()
    ) -> Value:
        """The degree, said by its word; its interval is that of the degrees that are named."""
        found = super().value(used, every, blanks)
        words = [degree.word for degree in self.part.degrees]
        low, high = found.interval.low or 0.0, found.interval.high or 0.0
        first, last = floor(low + 0.5), ceil(high - 0.5)
        between = words[first] if first == last else f"{words[first]} to {words[last]}"
        whole = Interval(max(first - 0.5, 0.0), min(last + 0.5, len(words) - 1.0))
        at = round(found.number)
        kit = self._verdict(first, last, at)
        return replace(found, interval=whole, said=words[at], said_range=between, kit_verdict=kit)

    def _verdict(self, first: int, last: int, at: int) -> str:
        """What the kit itself says of this degree: "within", "above", "below"; "close" where the
        degrees that it may be say different things; nothing where the kit gives no verdict."""
        said = {degree.says for degree in self.part.degrees[first : last + 1]}
        if None in said or not self.part.degrees[at].says:
            return ""
        return said.pop() or "" if len(said) == 1 else "close"
