"""Drop count titration: drops of titrant until a colour stays.

One drop stands for f = N d E 1000 / V mg/L (kessa_core.chemistry.titration); the kit reports the
mean count times its printed factor.
"""

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from functools import cached_property
from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from kessa_core.chemistry.titration import mg_l
from kessa_core.documents import Amount, Measurand, NamedColour, Part, Short
from kessa_core.documents.parts import Line
from kessa_core.influences.part import (
    COLOUR_NEED,
    EYE,
    PORTION,
    ScaledUncertainties,
    SourceInfo,
    UncertaintySource,
    spread,
)
from kessa_core.quantities import Interval, Value, conversion
from kessa_core.quantities.rounding import figure, rounded
from kessa_core.readings import reading as counts
from kessa_core.readings.counting import CountModel
from kessa_core.readings.lots import DropSize
from kessa_core.readings.reading import Count, Reading
from kessa_core.readings.reading_type import Lookup, ReadingType, plain
from kessa_core.readings.scale import Scale


class DropCountPart(Part):
    """Drop count titration: what one drop stands for and where to stop."""

    by: Literal["drop-count"]
    portion_ml: float = Field(gt=0, le=1000, description="Test portion, mL.")
    titrant: Short
    factor: Amount = Field(
        description="What one drop stands for as printed, in the reported unit, in quotes."
    )
    normality_eq_l: float | None = Field(
        default=None, gt=0, le=20, description="Titrant, eq/L, where the leaflet says it."
    )
    drop_ml: float | None = Field(
        default=None, gt=0, le=1, description="Volume of one drop, mL, where it is known."
    )
    equivalent_weight_mg_meq: float | None = Field(
        default=None, gt=0, le=1000, description="mg/meq of what is reported."
    )
    most: int = Field(ge=1, le=60, description="No change here: stop.")
    prints: Literal["middle", "upper-edge"] = Field(
        default="middle", description="For n drops: (n - ½) × factor, or n × factor."
    )
    minus: Amount | None = Field(
        default=None, description="What the kit takes off, in the reported unit: n × factor - this."
    )
    zero: bool = Field(
        default=False, description="The end colour before the first drop is a reading, of nought."
    )
    absent_below: Amount | None = Field(
        default=None, description="What the end colour at once, said at a check, means: below."
    )
    start_colour: NamedColour
    end_colour: NamedColour
    endpoint: Line = Field(description="When the count ends, as the person is told.")

    @model_validator(mode="after")
    def _takes_off_once(self) -> "DropCountPart":
        if self.minus and self.prints == "middle":
            raise ValueError("minus belongs to prints: upper-edge; the middle takes off a half")
        return self

    @property
    def exact(self) -> float | None:
        """What one drop of the kit stands for, mg/L; None where only the factor is known."""
        if not (self.drop_ml and self.normality_eq_l and self.equivalent_weight_mg_meq):
            return None
        return mg_l(
            self.drop_ml, self.normality_eq_l, self.equivalent_weight_mg_meq, self.portion_ml
        )


def _exact(part: DropCountPart, measures: Measurand) -> float | None:
    """What one drop stands for in the reported unit, from its strength; None without it."""
    if part.exact is None or measures.unit == "drops":
        return None
    of = measures.basis
    factor, _ = conversion.line(measures.parameter, (of, "mg/L"), (of, measures.unit))
    return part.exact * factor


FINER = 3
HALF = Decimal("0.5")


class Counting(ReadingType):
    """What drop and tablet counts share: whole steps, halves for doubt, the count model."""

    counts: ClassVar[str]
    one: ClassVar[str]
    ended: ClassVar[str]
    slots = ()
    measures_out = True
    takes_reference = True
    corrected_by = ("drops", "kind")
    blank_verb = "took"
    other_way = "smaller portion"

    def __init_subclass__(cls) -> None:
        cls.step_unit, cls.read_title = cls.counts, cls.counts.capitalize()

    @classmethod
    def wrong_steps(
        cls, part: Any, measures: Measurand, steps: Sequence[tuple[str, str]], continued: bool
    ) -> str:
        """A count ends with its one step of that kind."""
        kinds = [kind for kind, _ in steps]
        counted = kinds[-1] == "count" and kinds.count("count") == 1 and "read" not in kinds
        return "" if counted else "must end with the one step of kind count"

    def dispensed(self, seen: Reading | None, counted: int) -> float:
        """What was counted, before an end or not."""
        return float(counted)

    @property
    def most(self) -> int:
        """The maximum count."""
        return int(self.part.most)

    @property
    def lookup(self) -> Lookup:
        """Every count has its row."""
        return "count"

    @property
    def asks_about_apart(self) -> bool:
        """A third count decides."""
        return False

    @property
    def has_scale(self) -> bool:
        """Every count comes to a value."""
        return True

    def example(self, position: int) -> Reading:
        """A count."""
        return Count(position)

    def outside(self) -> list[Reading]:
        """No change at the maximum count."""
        return [Count(self.most, "beyond")]

    def listed(self, every: Sequence[Reading]) -> str:
        """Counts, and what was counted."""
        return f"{super().listed(every)} {self.counts}"

    def unread(self, count: int) -> str:
        """How far the count had come."""
        return f"{count}, not ended"

    def blank_bound(self, allowed: int) -> str:
        """So many of what is counted."""
        return f"{allowed} {self.one if allowed == 1 else self.counts}"

    @property
    def beyond_title(self) -> str:
        """No change at the maximum."""
        return f"No change at {self.most} {self.counts}: stop"

    @property
    def each(self) -> str:
        """What one stands for, as printed."""
        raise NotImplementedError

    def count_words(self) -> dict[str, Any]:
        """Buttons and titles of the count."""
        unit = self.measures.unit
        per = f"{self.each} {unit} each, " if unit != "drops" else ""
        return {
            "one": self.one,
            "many": self.counts,
            "add": f"Add {self.one}",
            "end": self.ended,
            "noChange": "no change",
            "none": "no colour: absent",
            "first": self.first,
            "endAtOnce": f"Turned before the first {self.one}",
            "noChangeStop": "End count (no change)",
            "perDrop": f"{per}{self.portion} portion",
            "reading": {
                "title": "Did it stay?",
                "lead": f"How sure are you of the last {self.one}?",
            },
            "checkDrop": "Check drops added, not counted",
            "stopAt": self.most,
        }

    @property
    def first(self) -> int:
        """The lowest count: nought where that is a reading, else one."""
        return 0 if self.part.zero else 1

    def scale(self, slot: str) -> Scale:
        """The count, from its lowest to the maximum."""
        return Scale(slot or "count", self.first, self.part.most, unit=self.counts)

    def half_steps(self, seen: Reading) -> int:
        """The reported count in half steps."""
        return counts.half_steps(seen)

    def weights(self) -> dict[str, int]:
        """A count is no sum of slots."""
        return {}

    def format_reading(self, seen: Reading) -> str:
        """The count as people say it."""
        return counts.format_reading(seen)

    def edges(self, seen: Reading) -> tuple[float, float]:
        """Where the true end lies, in steps."""
        return counts.edges(seen, self.part.zero)

    def interval(self, every: Sequence[Reading], blanks: Sequence[Reading] = ()) -> Interval:
        """The 95 % interval from every determination and what the blanks say."""
        return self.counting.interval(every, blanks)

    def one_sided(self, every: Sequence[Reading], blanks: Sequence[Reading] = ()) -> Interval:
        """As Reader.one_sided()."""
        return self.counting.one_sided(every, blanks)

    def given(
        self, every: Sequence[Reading], z: float, common: float, count: int, slip: float
    ) -> Any:
        """As Reader.given()."""
        return self.counting.given(every, z, common, count, slip)

    @cached_property
    def counting(self) -> CountModel:
        """The forward model of the count."""
        raise NotImplementedError

    def more_precise_option(
        self, every: Sequence[Reading], blanks: Sequence[Reading]
    ) -> tuple[str, Interval] | None:
        """With a portion three times as large, where its counts still fit."""
        count = round(sum(self.half_steps(seen) for seen in every) / len(every) / 2 * FINER)
        if count > self.part.most:
            return None
        model = replace(self.counting, factor=self.counting.factor / FINER)
        words = f"a portion {FINER} times as large, so that {self.step} is less"
        return words, model.interval([Count(count)] * len(every), blanks)

    @property
    def scatter_at_foot(self) -> float:
        """Sd in steps of the first one."""
        return float(self.counting.scatter(np.zeros(1), np.zeros(1))[0])

    def at(self, half_steps: int) -> float:
        """Half steps times what one step stands for."""
        return half_steps / 2 * self.counting.factor

    @property
    def least(self) -> float:
        """Nothing at all."""
        return 0.0


class DropCount(Counting):
    """Drops of titrant until a colour stays."""

    option_field = "prints"
    option_title = "What n drops stand for"
    options: ClassVar = {
        "middle": "n less a half: the middle of the last drop",
        "upper-edge": "n: the whole last drop counts",
    }
    by = "drop-count"
    same_flask = ("portion_ml", "titrant", "factor")
    words = "drop count"
    document = DropCountPart
    counts = "drops"
    one = "drop"
    ended = "End count (colour stays)"
    backs_off = True
    step = "one drop"
    standard_shows = "a standard, which shows this bottle's drop size"
    knows: ClassVar = {
        "strength": SourceInfo("relative", "the titrant’s strength"),
        "drop-size": SourceInfo("relative", "this bottle’s drop size"),
        "each-drop": SourceInfo("per-step", "one drop and the next are not alike"),
        "portion": PORTION,
        "eye": EYE,
        "colour-need": COLOUR_NEED,
    }

    needs = frozenset({"eye", "colour-need", "drop-size"})

    @property
    def kit_drop_ml(self) -> float | None:
        """As its factor is reckoned with."""
        return float(self.part.drop_ml) if self.part.drop_ml else None

    @property
    def each(self) -> str:
        """The printed factor."""
        return str(self.part.factor)

    @property
    def arithmetic(self) -> str:
        """N, drop volume, E and portion make the factor."""
        p = self.part
        if own := self.own_drop:
            return (
                f"This bottle’s drop is {own.ml:.4g} mL: {self.factor} {self.measures.unit} a drop"
            )
        if p.exact is None:
            less = f" − {p.minus}" if p.minus else ""
            counted = "(drops − ½)" if p.prints == "middle" else "drops"
            return f"{counted} × {p.factor}{less} = {self.measures.quantity.label}"
        return (
            f"{p.normality_eq_l} eq/L × {p.drop_ml} mL × {p.equivalent_weight_mg_meq} mg/meq"
            f" × 1000 / {p.portion_ml:g} mL = {p.factor} {self.measures.unit} a drop"
        )

    @classmethod
    def validation_error(cls, part: Any, measures: Measurand) -> str:
        """The printed factor has to follow from the strength, where both are given."""
        exact, decimals = _exact(part, measures), len(part.factor.partition(".")[2])
        if exact is None or measures.unit == "drops":
            return ""
        if figure(exact, decimals) != part.factor:
            return (
                f"factor {part.factor} does not follow from normality, drop, portion and "
                f"equivalent weight: they give {figure(exact, decimals + 2)} {measures.unit} a drop"
            )
        return ""

    @property
    def own_drop(self) -> DropSize | None:
        """This bottle's own drop where it was measured and can be compared with the kit's; a figure
        in drops has no use for it."""
        comparable = self.measures.unit != "drops" and self.part.drop_ml
        return self.lot.drop if comparable else None

    @cached_property
    def exact(self) -> float:
        """What one drop of the kit stands for in the reported unit, as exactly as it is known."""
        found = _exact(self.part, self.measures)
        return float(self.part.factor) if found is None else found

    @cached_property
    def factor(self) -> Decimal:
        """What one drop makes in the reported figure: as printed, or by this bottle's drop."""
        if self.measures.unit == "drops":
            return Decimal(1)
        if own := self.own_drop:
            decimals = len(self.part.factor.partition(".")[2]) + 1
            return rounded(self.exact * own.ml / self.part.drop_ml, decimals)
        return Decimal(self.part.factor)

    @cached_property
    def counting(self) -> CountModel:
        """The forward model; it computes with the exact factor, not the printed one."""
        exact = 1.0 if self.measures.unit == "drops" else self.exact
        if own := self.own_drop:
            exact *= own.ml / self.part.drop_ml
        return CountModel(exact, self.part.most, self.spread, asked=self.asked, zero=self.part.zero)

    @cached_property
    def spread(self) -> ScaledUncertainties:
        """With a measured drop: its own uncertainty in place of the kit's."""
        found = self.sized_influences
        return spread(found, self._known)

    @property
    def sized_influences(self) -> tuple[UncertaintySource, ...]:
        """The influences, the drop's size as it was measured."""
        own = self.own_drop
        return tuple(
            i.model_copy(update={"sd": own.sd}) if own and i.of == "drop-size" else i
            for i in self.influences
        )

    @property
    def less(self) -> Decimal:
        """What is subtracted from a count before the factor: ½ drop where the middle is printed."""
        return HALF if self.part.prints == "middle" else Decimal(0)

    def number(self, seen: Reading) -> Decimal:
        """The count, less a half where the kit prints the middle, times the printed factor."""
        counted = max(Decimal(self.half_steps(seen)) / 2 - self.less, Decimal(0)) * self.factor
        return max(counted - self.minus, Decimal(0))

    @property
    def minus(self) -> Decimal:
        """What the kit takes off every figure, in the reported unit."""
        return Decimal(self.part.minus or 0)

    def mean(self, used: Sequence[Reading], blanks: Sequence[Reading] = ()) -> Decimal:
        """The mean count, less the blank's where it is subtracted, times the printed factor, less
        what the kit takes off; a blank that is subtracted takes that off by itself."""
        found = self._count(used, blanks) * self.factor
        return found if self.takes_off(blanks) else max(found - self.minus, Decimal(0))

    def _count(self, used: Sequence[Reading], blanks: Sequence[Reading]) -> Decimal:
        """The mean count as reported; with a subtracted blank the halves cancel."""
        mean = Decimal(sum(self.half_steps(seen) for seen in used)) / (2 * len(used))
        less = Decimal(self.half_steps(blanks[-1])) / 2 if self.takes_off(blanks) else self.less
        return max(mean - less, Decimal(0))

    def takes_off(self, blanks: Sequence[Reading]) -> bool:
        """Whether the blank's drops are subtracted."""
        return bool(self.subtract and blanks)

    def bound(self, seen: Reading, blanks: Sequence[Reading] = ()) -> Value:
        """The bound kept when nothing changed at the maximum count."""
        number = float(max(int(seen.n) * self.factor - self.minus, Decimal(0)))
        interval = self.interval([seen], blanks)
        decimals = self.measures.decimals
        return Value(
            self.measures.quantity, number, decimals, interval, ">", self.words
        )  # fmt: skip

    def working(self, used: Sequence[Reading], blanks: Sequence[Reading], value: Value) -> str:
        """ "7, 8 drops: mean 7.5 × 8.3 = 62 mg/L as Cl"."""
        less = f" − {self.part.minus}" if self.minus and not self.takes_off(blanks) else ""
        if value.qualifier == ">":
            at = used[-1].n
            return f"no change at {at} drops: {at} × {self.factor}{less}, so {value.text}"
        if used[0].kind == "absent":
            return super().working(used, blanks, value)
        if not any(self.half_steps(seen) for seen in used):
            return f"{self.format_reading(used[0])} drop: {value.text}"
        said = ", ".join(plain(Decimal(self.half_steps(seen)) / 2) for seen in used)
        mean = Decimal(sum(self.half_steps(seen) for seen in used)) / (2 * len(used))
        count = f"mean {plain(mean)}" if len(used) > 1 else plain(mean)
        if self.takes_off(blanks):
            count += f" less blank {plain(Decimal(self.half_steps(blanks[-1])) / 2)}"
        elif self.less:
            count += " − ½"
        if self.measures.unit == "drops":
            return f"{said} drops: {count} = {value.text}"
        left = f"({count})" if " " in count.removeprefix("mean ") else count
        return f"{said} drops: {left} × {self.factor}{less} = {value.text}"

    def explain_offset(self, value: Value, blanks: Sequence[Reading]) -> str:
        """One sentence when the reported figure does not lie in the middle of its interval by a
        choice of what is counted."""
        if value.lies_in_the_middle or (self.part.prints == "middle" and value.lies_in_its_range):
            return ""
        if self.part.prints == "upper-edge" and not self.minus:
            return "The kit counts the whole last drop, so the true value is a little lower."
        return (
            "The colour itself takes titrant and the blank is not subtracted, so the true value is "
            "a little lower."
        )
