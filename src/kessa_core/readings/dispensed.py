"""Titrant read from what dispenses it: a burette, a digital titrator, a syringe with its own scale.

Burette: c = (V_end - V_start - V_blank) N E 1000 / V. Digital titrator: digits times a multiplier.
Syringe: a scale printed in mg/L, read at the tip of the plunger; a refill adds a whole scale.
"""

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from functools import cached_property
from math import hypot, sqrt
from typing import Any, ClassVar, Literal

from pydantic import Field, model_validator

from kessa_core.chemistry.titration import mg_l
from kessa_core.documents import Amount, Measurand, NamedColour, Part, Short
from kessa_core.documents.parts import Line
from kessa_core.influences.part import COLOUR_NEED, EYE, PORTION, SourceInfo
from kessa_core.quantities import Value, conversion
from kessa_core.quantities.rounding import figure
from kessa_core.readings.displays import Display
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import plain
from kessa_core.readings.scale import Scale, whole_steps

KNOWN = {
    "strength": SourceInfo("relative", "the titrant’s strength"),
    "portion": PORTION,
    "eye": EYE,
    "colour-need": replace(COLOUR_NEED, sizes=(0.5, 25.0)),
}
ENDPOINT = SourceInfo("steps", "how far past the end the last addition went")
ROUNDING = 1 / sqrt(12)
"""Sd in steps of a reading rounded to the nearest step."""


class Colours(Part):
    """The colours before and after the end."""

    start_colour: NamedColour
    end_colour: NamedColour
    absent_below: Amount | None = Field(
        default=None, description="What the end colour at once, before any titrant, means: below."
    )
    endpoint: Line = Field(description="When to stop, as the person is told.")


class BurettePart(Colours):
    """A burette read before and after."""

    by: Literal["burette"]
    portion_ml: float = Field(gt=0, le=2000)
    titrant: Short
    normality_eq_l: float | None = Field(default=None, gt=0, le=20)
    equivalent_weight_mg_meq: float | None = Field(default=None, gt=0, le=1000)
    per_ml: Amount | None = Field(
        default=None, description="What 1 mL stands for as printed, in the reported unit."
    )
    holds_ml: int = Field(ge=1, le=100)
    estimate_ml: Amount = Field(description="The finest part that is read, e.g. 0.05.")
    read_at: Line = "The bottom of the curve, at eye level."

    @model_validator(mode="after")
    def _parts_fill_it(self) -> "BurettePart":
        whole_steps(self.estimate_ml, "estimate_ml", holds_ml=str(self.holds_ml))
        if self.exact is None and self.per_ml is None:
            raise ValueError("give per_ml, or normality_eq_l and equivalent_weight_mg_meq")
        return self

    @property
    def exact(self) -> float | None:
        """What 1 mL stands for, mg/L; None where the leaflet says per_ml only."""
        if not (self.normality_eq_l and self.equivalent_weight_mg_meq):
            return None
        return mg_l(1.0, self.normality_eq_l, self.equivalent_weight_mg_meq, self.portion_ml)


class Burette(Display):
    """Read the burette, titrate, read it again."""

    by = "burette"
    same_flask = (
        "portion_ml", "titrant", "normality_eq_l", "equivalent_weight_mg_meq", "per_ml",
        "estimate_ml",
    )  # fmt: skip
    over_says = "The burette ran out"
    words = "burette"
    measures_out = True
    rising = True
    document = BurettePart
    slots = ("start", "end")
    step = "one step of the burette"
    knows: ClassVar = {**KNOWN, "endpoint": ENDPOINT}
    needs = frozenset({"eye", "strength", "portion"})

    @classmethod
    def validation_error(cls, part: Any, measures: Measurand) -> str:
        """What is printed for 1 mL has to follow from the strength, where both are given."""
        exact = _in_unit(part.exact, measures)
        if exact is None or part.per_ml is None:
            return ""
        decimals = len(part.per_ml.partition(".")[2])
        if figure(exact, decimals) == part.per_ml:
            return ""
        return (
            f"per_ml {part.per_ml} does not follow from normality, portion and equivalent weight: "
            f"they give {figure(exact, decimals + 2)} {measures.unit} a mL"
        )

    @property
    def reading_fields(self) -> tuple[str, ...]:
        """One that continues goes on from the start of the stage before."""
        return ("end",) if self.continued else self.slots

    @cached_property
    def one_ml(self) -> float:
        """What 1 mL stands for, in the reported unit."""
        printed = self.part.per_ml
        return float(printed) if printed else _in_unit(self.part.exact, self.measures) or 0.0

    def scale(self, slot: str) -> Scale:
        """Both readings stand on the same glass; one that ran out is above its end."""
        p = self.part
        return Scale.printed(slot, (0, p.holds_ml), p.estimate_ml, "mL", over=slot == "end")

    def curve(self, n: float) -> float:
        """mg/L of a volume of titrant."""
        return self.main.figure(n) * self.one_ml

    def position(self, seen: Reading) -> float:
        """Steps used: the end less the start."""
        return seen.n - seen.slot("start")

    def dispensed(self, seen: Reading | None, counted: int) -> float:
        """mL."""
        return self.main.figure(self.position(seen)) if seen else 0.0

    def example(self, position: int) -> Reading:
        """From the zero mark on."""
        return Reading(position, beside=(("start", 0),))

    def weights(self) -> dict[str, int]:
        """The end counts up, the start down."""
        return {"end": 2, "start": -2}

    @cached_property
    def spread(self) -> Any:
        """Two readings of the glass, each by eye and the first rounded, stand in every volume; the
        last addition goes past the end once."""
        found = super().spread
        eye = hypot(*(i.sd or 0.0 for i in self.influences if i.of == "eye"))
        return replace(found, steps=hypot(found.steps, eye, ROUNDING))

    @property
    def arithmetic(self) -> str:
        """N, E and portion."""
        p = self.part
        if p.exact is None:
            return f"mL × {p.per_ml} = {self.measures.quantity.label}"
        return (
            f"{p.normality_eq_l} eq/L × {p.equivalent_weight_mg_meq} mg/meq × 1000"
            f" / {p.portion_ml:g} mL = {self.one_ml:.4g} {self.measures.unit} a mL"
        )

    def format_reading(self, seen: Reading) -> str:
        """ "12.40 mL (0.60 to 13.00)"."""
        if seen.kind != "plain":
            return super().format_reading(seen)
        scale, start = self.main, seen.slot("start")
        return f"{scale.say(seen.n - start)} mL ({scale.say(start)} to {scale.say(seen.n)})"

    def working(self, used: Sequence[Reading], blanks: Sequence[Reading], value: Value) -> str:
        """The volumes and what one mL stands for."""
        if value.qualifier:
            return super().working(used, blanks, value)
        per_ml = plain(Decimal(repr(round(self.one_ml, 6))))
        said = ", ".join(self.format_reading(seen) for seen in used)
        taken = (
            f", less blank {self.format_reading(blanks[-1])}" if self.subtract and blanks else ""
        )
        mean = "mean " if len(used) > 1 else ""
        return f"{said}{taken}: {mean}× {per_ml} {self.measures.unit} a mL = {value.text}"


def _in_unit(mg: float | None, measures: Measurand) -> float | None:
    """mg/L in the reported unit; None where there is none."""
    if mg is None:
        return None
    of = measures.basis
    factor, _ = conversion.line(measures.parameter, (of, "mg/L"), (of, measures.unit))
    return mg * factor


class DigitalTitratorPart(Colours):
    """A titrator whose counter shows digits."""

    by: Literal["digital-titrator"]
    portion_ml: float = Field(gt=0, le=2000)
    titrant: Short
    multiplier: Amount = Field(description="Printed for this portion and cartridge, in quotes.")
    most: int = Field(ge=10, le=9999, description="No change here: smaller portion.")


class DigitalTitrator(Display):
    """Turn the knob until the new colour stays, then read the counter."""

    by = "digital-titrator"
    same_flask = ("portion_ml", "titrant", "multiplier")
    words = "digital titrator"
    measures_out = True
    document = DigitalTitratorPart
    step = "one digit of the counter"
    knows: ClassVar = KNOWN
    needs = frozenset({"eye", "strength", "portion"})

    def scale(self, slot: str) -> Scale:
        """The counter."""
        return Scale(slot, 0, self.part.most, unit="digits", over=True)

    @property
    def arithmetic(self) -> str:
        """The printed multiplier."""
        return f"digits × {self.part.multiplier} = {self.measures.quantity.label}"

    def curve(self, n: float) -> float:
        """Digits times the multiplier."""
        return float(n * float(self.part.multiplier))

    def working(self, used: Sequence[Reading], blanks: Sequence[Reading], value: Value) -> str:
        """ "131 digits × 0.1 = 13.1 mg/L"."""
        if value.qualifier == ">":
            return f"no change at {self.part.most} digits: {value.text}"
        if value.qualifier:
            return super().working(used, blanks, value)
        said = ", ".join(f"{seen.n:g}" for seen in used)
        taken = f" less blank {blanks[-1].n:g}" if self.subtract and blanks else ""
        mean = "mean " if len(used) > 1 else ""
        return f"{said} digits{taken}: {mean}× {self.part.multiplier} = {value.text}"


class SyringePart(Colours):
    """A syringe whose scale is printed in the reported unit."""

    by: Literal["syringe"]
    portion_ml: float = Field(gt=0, le=2000)
    titrant: Short
    full: Amount = Field(description="What a whole syringe stands for, e.g. 200.")
    mark: Amount = Field(description="The finest part that is read, e.g. 2.")
    read_at: Line = "The tip of the plunger, from above."
    refills: int = Field(default=0, ge=0, le=5, description="How often it may be filled again.")

    @model_validator(mode="after")
    def _marks_fill_it(self) -> "SyringePart":
        whole_steps(self.mark, "mark", full=self.full)
        return self


class Syringe(Display):
    """Press the plunger until the colour stays, read at its tip."""

    by = "syringe"
    same_flask = ("portion_ml", "titrant", "full", "mark")
    words = "syringe"
    document = SyringePart
    step = "one mark of the syringe"
    knows: ClassVar = {**KNOWN, "refill": ENDPOINT}
    needs = frozenset({"eye", "strength", "portion"})

    @property
    def reading_fields(self) -> tuple[str, ...]:
        """Refills first, where the method knows them."""
        return ("refills", "reading") if self.part.refills else ("reading",)

    @cached_property
    def _full(self) -> int:
        return int(Decimal(self.part.full) / Decimal(self.part.mark))

    def scale(self, slot: str) -> Scale:
        """The printed scale, or how often it was filled again."""
        if slot == "refills":
            return Scale(slot, 0, self.part.refills, unit="refills")
        p = self.part
        return Scale.printed(slot, (0, p.full), p.mark, self.measures.unit, over=True)

    def curve(self, n: float) -> float:
        """The scale is printed in the reported unit."""
        return self.main.figure(n)

    @property
    def reach(self) -> tuple[int, int]:
        """Refills lengthen the scale."""
        return 0, self._full * (self.part.refills + 1)

    @property
    def room(self) -> float:
        """Refills lengthen the scale."""
        return self._full * (float(self.part.refills) + 0.25)

    def position(self, seen: Reading) -> float:
        """A refill adds a whole scale."""
        return seen.n + self._full * seen.slot("refills")

    def example(self, position: int) -> Reading:
        """With as many refills as it takes."""
        again, n = divmod(position, self._full) if position > self._full else (0, position)
        return Reading(n, beside=(("refills", again),) if self.part.refills else ())

    def weights(self) -> dict[str, int]:
        """A refill adds a whole scale."""
        whole = {"refills": 2 * self._full} if self.part.refills else {}
        return {"reading": 2, **whole}

    def format_reading(self, seen: Reading) -> str:
        """ "64 and one refill of 200"."""
        again = seen.slot("refills")
        text = super().format_reading(seen)
        times = {0: "", 1: f" and one refill of {self.part.full}"}
        return text + times.get(int(again), f" and {again:g} refills of {self.part.full}")
