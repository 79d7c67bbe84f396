"""Tablet count: tablets one at a time until the colour turns for good; c = k n - o.

Where the true end lies for n tablets the method says: from (n - 1) k to n k, or, where the first
tablet only sets the colour, from (n - 2) k to (n - 1) k. Conditioning tablets are steps.
"""

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from functools import cached_property
from typing import ClassVar, Literal

from pydantic import Field, model_validator

from kessa_core.documents import Amount, NamedColour, Part, Short
from kessa_core.documents.parts import Line
from kessa_core.influences.part import EYE, PORTION, SourceInfo
from kessa_core.quantities import Value
from kessa_core.readings.counting import CountModel
from kessa_core.readings.dropcount import Counting
from kessa_core.readings.reading import Reading


class TabletCountPart(Part):
    """Tablet count: what one tablet stands for, the offset, and where to stop."""

    by: Literal["tablet-count"]
    portion_ml: float = Field(gt=0, le=1000, description="Test portion, mL.")
    tablet: Short = Field(description="The titrating tablet; conditioning tablets are steps.")
    per_tablet: Amount = Field(description="k, in the reported unit, in quotes.")
    offset: Literal["none", "half", "whole", "given"] = Field(
        description="o: nothing, k/2, k, or what minus says."
    )
    minus: Amount | None = Field(default=None, description="o, where offset is given.")
    zero: bool = Field(
        default=False, description="The end colour before the first tablet is a reading, of nought."
    )
    first_sets_colour: bool = Field(
        default=False, description="The first tablet only sets the colour and titrates nothing."
    )
    absent_below: Amount | None = Field(
        default=None, description="What no colour after the first tablet means: below."
    )
    most: int = Field(ge=1, le=40, description="No change here: stop.")
    start_colour: NamedColour
    end_colour: NamedColour
    endpoint: Line = Field(description="When the count ends, as the person is told.")

    @model_validator(mode="after")
    def _fits(self) -> "TabletCountPart":
        if self.first_sets_colour and self.offset != "whole":
            raise ValueError("a first tablet that only sets the colour needs offset: whole")
        if (self.minus is not None) != (self.offset == "given"):
            raise ValueError("minus belongs to offset: given, and is needed there")
        if self.zero and self.first_sets_colour:
            raise ValueError("zero: a first tablet that sets the colour is always needed")
        return self


class TabletCount(Counting):
    """Tablets one at a time until the colour turns for good."""

    by = "tablet-count"
    same_flask = ("portion_ml", "tablet", "per_tablet")
    words = "tablet count"
    document = TabletCountPart
    counts = "tablets"
    one = "tablet"
    ended = "It turned for good"
    step = "one tablet"
    knows: ClassVar = {
        "strength": SourceInfo("relative", "how strong this lot’s tablets are"),
        "each-tablet": SourceInfo("per-step", "one tablet and the next are not alike"),
        "portion": PORTION,
        "eye": EYE,
    }
    needs = frozenset({"eye", "strength"})

    @property
    def each(self) -> str:
        """k."""
        return str(self.part.per_tablet)

    @cached_property
    def k(self) -> Decimal:
        """What one tablet stands for."""
        return Decimal(self.part.per_tablet)

    @cached_property
    def offset(self) -> Decimal:
        """What the formula takes off."""
        if self.part.minus:
            return Decimal(self.part.minus)
        return {"none": Decimal(0), "half": self.k / 2, "whole": self.k}[self.part.offset]

    @property
    def arithmetic(self) -> str:
        """k and o."""
        off = f" − {self.offset.normalize():f}" if self.offset else ""
        return f"tablets × {self.k}{off} = {self.measures.quantity.label}"

    @cached_property
    def counting(self) -> CountModel:
        """The forward model; a first tablet that sets the colour is needed before all others."""
        sizes = self.spread
        if self.part.first_sets_colour:
            sizes = replace(sizes, offset=(1.0, 1.0))
        return CountModel(
            float(self.k), self.part.most, sizes, asked=self.asked, zero=self.part.zero
        )

    def number(self, seen: Reading) -> Decimal:
        """k n - o, never below zero."""
        return max(Decimal(self.half_steps(seen)) / 2 * self.k - self.offset, Decimal(0))

    def bound(self, seen: Reading, blanks: Sequence[Reading] = ()) -> Value:
        """The bound kept when nothing changed at the maximum count."""
        number = float(max(int(seen.n) * self.k - self.offset, Decimal(0)))
        return Value(
            self.measures.quantity, number, self.measures.decimals, self.interval([seen], blanks),
            ">", self.words,
        )  # fmt: skip

    def working(self, used: Sequence[Reading], blanks: Sequence[Reading], value: Value) -> str:
        """ "6 tablets: 6 × 15 − 7.5 = 82.5 mg/L"."""
        if used[0].kind == "absent":
            return f"no colour after the first tablet: absent, below {self.part.absent_below}"
        if value.qualifier == ">":
            return f"no change at {used[-1].n} tablets: {value.text}"
        if not any(self.half_steps(seen) for seen in used):
            return f"{self.format_reading(used[0])} tablet: {value.text}"
        off = f" − {self.offset.normalize():f}" if self.offset else ""
        counted = ((self.format_reading(one), Decimal(self.half_steps(one)) / 2) for one in used)
        each = "; ".join(f"{read} tablets: {n:f} × {self.k}{off}" for read, n in counted)
        return f"{each} = {'mean ' if len(used) > 1 else ''}{value.text}"

    def explain_offset(self, value: Value, blanks: Sequence[Reading]) -> str:
        """One sentence when the reported figure lies outside its own interval."""
        if value.lies_in_its_range:
            return ""
        return "The formula reports an edge of the last tablet, so the true value lies beside it."
