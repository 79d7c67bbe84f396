"""Drop count titration: drops of titrant until a colour stays.

One drop stands for f = N d E 1000 / V mg/L (kessa_core.chemistry.titration); the kit reports the
mean count times its printed factor.
"""

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from functools import cached_property
from typing import Any, ClassVar, Literal

from pydantic import Field, model_validator

from kessa_core.chemistry.titration import mg_l
from kessa_core.documents import Figure, Measures, NamedColour, Part, Short
from kessa_core.documents.parts import Line
from kessa_core.influences.part import COLOUR_NEED, EYE, PORTION, Knows
from kessa_core.quantities import Interval, Value
from kessa_core.quantities.rounding import figure
from kessa_core.readings import seen as counts
from kessa_core.readings.counting import CountModel
from kessa_core.readings.reader import CLEAR, Reader, plain
from kessa_core.readings.scale import Scale
from kessa_core.readings.seen import Count, Seen


class DropCountPart(Part):
    """Drop count titration: what one drop stands for and where to stop."""

    by: Literal["drop-count"]
    portion_ml: float = Field(gt=0, le=1000, description="Test portion, mL.")
    titrant: Short
    normality_eq_l: float = Field(gt=0, le=20, description="Titrant, eq/L.")
    drop_ml: float = Field(gt=0, le=1, description="Volume of one drop, mL.")
    equivalent_weight_mg_meq: float = Field(gt=0, le=1000, description="mg/meq.")
    factor: Figure = Field(description="What one drop stands for as printed, in quotes.")
    most: int = Field(ge=1, le=60, description="No change here: stop.")
    start_colour: NamedColour
    end_colour: NamedColour
    endpoint: Line = Field(description="When the count ends, as the person is told.")

    @model_validator(mode="after")
    def _factor_agrees(self) -> "DropCountPart":
        exact = self.exact
        decimals = len(self.factor.partition(".")[2])
        if figure(exact, decimals) != self.factor:
            raise ValueError(
                f"factor {self.factor} does not follow from normality, drop, portion and "
                f"equivalent weight: they give {figure(exact, decimals + 2)} mg/L a drop"
            )
        return self

    @property
    def exact(self) -> float:
        """What one drop of the kit stands for, mg/L."""
        return mg_l(
            self.drop_ml, self.normality_eq_l, self.equivalent_weight_mg_meq, self.portion_ml
        )


FINER = 3


class Counting(Reader):
    """What drop and tablet counts share: whole steps, halves for doubt, the count model."""

    counts: ClassVar[str]
    slots = ()

    def scale(self, slot: str) -> Scale:
        """The count, from one step to the maximum."""
        return Scale(slot or "count", 1, self.part.most, unit=self.counts)

    def halves(self, seen: Seen) -> int:
        """The reported count in half steps."""
        return counts.halves(seen)

    def weights(self) -> dict[str, int]:
        """A count is no sum of slots."""
        return {}

    def said(self, seen: Seen) -> str:
        """The count as people say it."""
        return counts.said(seen)

    def edges(self, seen: Seen) -> tuple[float, float]:
        """Where the true end lies, in steps."""
        return counts.edges(seen)

    def interval(self, every: Sequence[Seen], blanks: Sequence[Seen] = ()) -> Interval:
        """The 95 % interval from every determination and what the blanks say."""
        return self.counting.interval(every, blanks)

    def given(self, every: Sequence[Seen], z: float, common: float, count: int) -> Any:
        """As Reader.given()."""
        return self.counting.given(every, z, common, count)

    @cached_property
    def counting(self) -> CountModel:
        """The forward model of the count."""
        raise NotImplementedError

    def finer(self, every: Sequence[Seen], blanks: Sequence[Seen]) -> tuple[str, Interval] | None:
        """With a portion three times as large, where its counts still fit."""
        count = round(sum(self.halves(seen) for seen in every) / len(every) / 2 * FINER)
        if count > self.part.most:
            return None
        model = replace(self.counting, factor=self.counting.factor / FINER)
        words = f"a portion {FINER} times as large, so that {self.step} is less"
        return words, model.interval([Count(count)] * len(every), blanks)

    def at(self, halves: int) -> float:
        """Half steps times what one step stands for."""
        return halves / 2 * self.counting.factor

    @property
    def least(self) -> float:
        """Nothing at all."""
        return 0.0

    def clear(self, number: float) -> float:
        """A fifth of a step."""
        return CLEAR * self.counting.factor


class DropCount(Counting):
    """Drops of titrant until a colour stays."""

    by = "drop-count"
    words = "drop count"
    document = DropCountPart
    counts = "drops"
    step = "one drop"
    standard_shows = "a standard, which shows this bottle's drop size"
    knows: ClassVar = {
        "strength": Knows("relative", "the titrant’s strength"),
        "drop-size": Knows("relative", "this bottle’s drop size"),
        "each-drop": Knows("per-step", "one drop and the next are not alike"),
        "portion": PORTION,
        "eye": EYE,
        "colour-need": COLOUR_NEED,
    }
    needs = frozenset({"eye", "colour-need", "drop-size"})

    @property
    def arithmetic(self) -> str:
        """N, drop volume, E and portion make the factor."""
        p = self.part
        return (
            f"{p.normality_eq_l} eq/L × {p.drop_ml} mL × {p.equivalent_weight_mg_meq} mg/meq"
            f" × 1000 / {p.portion_ml:g} mL = {p.factor} {self.measures.unit} a drop"
        )

    @classmethod
    def misfit(cls, part: Any, measures: Measures) -> str:
        """A factor in mg/L belongs to a figure in mg/L; a reserve is counted in drops."""
        if measures.unit not in ("mg/L", "drops"):
            return "a drop count reports mg/L, or drops"
        return ""

    @cached_property
    def factor(self) -> Decimal:
        """What one drop makes in the reported figure."""
        return Decimal(1) if self.measures.unit == "drops" else Decimal(self.part.factor)

    @cached_property
    def counting(self) -> CountModel:
        """The forward model; it computes with the exact factor, not the printed one."""
        exact = 1.0 if self.measures.unit == "drops" else self.part.exact
        return CountModel(exact, self.part.most, self.spread)

    def number(self, seen: Seen) -> Decimal:
        """The count times the printed factor."""
        return Decimal(self.halves(seen)) / 2 * self.factor

    def mean(self, used: Sequence[Seen], blanks: Sequence[Seen] = ()) -> Decimal:
        """The mean count, less the blank's where it is taken off, times the printed factor."""
        return self._count(used, blanks) * self.factor

    def _count(self, used: Sequence[Seen], blanks: Sequence[Seen]) -> Decimal:
        mean = Decimal(sum(self.halves(seen) for seen in used)) / (2 * len(used))
        if self.subtract and blanks:
            mean -= Decimal(self.halves(blanks[-1])) / 2
        return max(mean, Decimal(0))

    def bound(self, seen: Seen, blanks: Sequence[Seen] = ()) -> Value:
        """The bound kept when nothing changed at the maximum count."""
        number = float(seen.n * self.factor)
        interval = self.interval([seen], blanks)
        decimals = self.measures.decimals
        return Value(
            self.measures.quantity, number, decimals, interval, ">", self.words,
            clear=self.clear(number),
        )  # fmt: skip

    def working(self, used: Sequence[Seen], blanks: Sequence[Seen], value: Value) -> str:
        """ "7, 8 drops: mean 7.5 × 8.3 = 62 mg/L as Cl"."""
        if value.qualifier == ">":
            return f"no change at {used[-1].n} drops: {used[-1].n} × {self.factor}, so {value.text}"
        said = ", ".join(plain(Decimal(self.halves(seen)) / 2) for seen in used)
        final = plain(self._count(used, blanks))
        if self.subtract and blanks:
            taken = plain(Decimal(self.halves(blanks[-1])) / 2)
            final = f"{plain(self._count(used, ()))} less blank {taken} = {final}"
        word = "mean " if len(used) > 1 else ""
        if self.measures.unit == "drops":
            return f"{said} drops: {word}{final}"
        return f"{said} drops: {word}{final} × {self.factor} = {value.text}"

    def apart(self, value: Value, blanks: Sequence[Seen]) -> str:
        """One sentence when the reported figure lies outside its own interval."""
        if value.lies_in_its_range:
            return ""
        if blanks and not self.subtract:
            return (
                "The interval lies lower than the reported figure: the colour itself takes titrant "
                f"(the blank took {self.said(blanks[-1])}), and this method does not take that off."
            )
        return "The kit reports the upper edge of the last drop; the truth lies below it."
