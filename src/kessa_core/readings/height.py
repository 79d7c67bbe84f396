"""A strip read as a height on its own scale; a table printed for its lot turns it into a value.

The table is not linear; the method says whether the closest row counts or the line between two.
"""

from collections.abc import Sequence
from decimal import Decimal
from functools import cached_property
from itertools import pairwise
from typing import ClassVar, Literal

from pydantic import Field, model_validator

from kessa_core.documents import Amount, Figure, Part, Short
from kessa_core.influences.part import EYE, SourceInfo
from kessa_core.quantities import Value
from kessa_core.readings.displays import Display
from kessa_core.readings.reading import Reading
from kessa_core.readings.scale import Scale, whole_steps


class Row(Part):
    """One row of the table: the strip's own unit and the value."""

    read: Figure
    value: Figure


class StripHeightPart(Part):
    """A strip whose coloured part is read as a height."""

    by: Literal["strip-height"]
    scale_unit: Short = Field(description="The strip's own unit, kept beside the value.")
    low: Figure = Field(default="0", description="The foot of its scale; below it: <.")
    high: Amount = Field(description="The top of the strip's scale.")
    mark: Amount = Field(description="The finest part that is read.")
    rule: Literal["closest-row", "interpolate"]
    example: tuple[Row, ...] = Field(
        min_length=3, max_length=80, description="A table to work with until the lot's is entered."
    )

    @model_validator(mode="after")
    def _rising(self) -> "StripHeightPart":
        for a, b in pairwise(self.example):
            if float(b.read) <= float(a.read) or float(b.value) <= float(a.value):
                raise ValueError("example must rise from row to row")
        whole_steps(self.mark, "mark", low=self.low, high=self.high)
        return self


class StripHeight(Display):
    """The height of the colour on a strip."""

    by = "strip-height"
    words = "strip, read as a height"
    document = StripHeightPart
    step = "one mark of the strip"
    option_field = "rule"
    option_title = "Between two rows of the table"
    options: ClassVar = {"closest-row": "the closest row", "interpolate": "the line between them"}
    knows: ClassVar = {
        "eye": EYE,
        "lot": SourceInfo("relative", "how well the lot’s table fits this strip"),
        "flow": SourceInfo("relative", "how far the water climbs in one strip and the next"),
    }
    needs = frozenset({"eye"})

    @cached_property
    def table(self) -> tuple[tuple[float, float], ...]:
        """The lot's own table, or the document's example where the lot has none."""
        if self.lot.table:
            return self.lot.table
        return tuple((float(row.read), float(row.value)) for row in self.part.example)

    def scale(self, slot: str) -> Scale:
        """The strip's own scale; a colour at its top is above it."""
        p = self.part
        ends = (p.low, p.high)
        return Scale.printed(slot, ends, p.mark, p.scale_unit, over=True, under=float(p.low) > 0)

    def curve(self, n: float) -> float:
        """Along the table from nothing on, straight between rows, on beyond its last one."""
        at = self.main.figure(n)
        rows = self.table if self.table[0][0] == 0 else ((0.0, 0.0), *self.table)
        after = next((i for i, row in enumerate(rows) if at <= row[0]), len(rows) - 1)
        (a, x), (b, y) = rows[max(after, 1) - 1], rows[max(after, 1)]
        return max(x + (y - x) * (at - a) / (b - a), 0.0)

    def number(self, seen: Reading) -> Decimal:
        """By the method's rule: the closest row (the higher of two equally close), or between."""
        if self.part.rule == "interpolate":
            return Decimal(repr(round(self.curve(float(seen.n)), 9)))
        at = self.main.figure(seen.n)
        read = min(reversed(self.table), key=lambda row: round(abs(row[0] - at), 9))
        return Decimal(repr(read[1]))

    def working(self, used: Sequence[Reading], blanks: Sequence[Reading], value: Value) -> str:
        """ "3.4 strip units, between rows of the lot's table: 31 mg/L"."""
        if value.qualifier:
            return f"{self.format_reading(used[-1])}: {value.text}"
        said = ", ".join(self.format_reading(seen) for seen in used)
        rows = "closest row" if self.part.rule == "closest-row" else "between rows"
        whose = f"lot {self.lot.number}" if self.lot.table else "the method’s example table"
        return f"{said}, {rows} of {whose}: {value.text}"
