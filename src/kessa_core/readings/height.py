"""A strip read as a height on its own scale; a table printed for its lot turns it into a value.

The table is not linear; the method says whether the closest row counts or the line between two.
"""

from typing import ClassVar, Literal

from pydantic import Field, model_validator

from kessa_core.documents import Amount, Figure, Part, Short
from kessa_core.influences.part import EYE, SourceInfo
from kessa_core.readings.scale import Scale, whole_steps
from kessa_core.readings.table import Row, Rows, Tabled, between, wrong_table


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
        rows = [(float(row.read), float(row.value)) for row in self.example]
        if wrong_table(rows) or rows[-1][1] < rows[0][1]:
            raise ValueError("example must rise from row to row")
        whole_steps(self.mark, "mark", low=self.low, high=self.high)
        return self


class StripHeight(Tabled):
    """The height of the colour on a strip."""

    by = "strip-height"
    words = "strip, read as a height"
    photographed = "The strip beside its scale in one picture, in even daylight."
    document = StripHeightPart
    step = "one mark of the strip"
    knows: ClassVar = {
        "eye": EYE,
        "lot": SourceInfo("relative", "how well the lot’s table fits this strip"),
        "flow": SourceInfo("relative", "how far the water climbs in one strip and the next"),
    }
    needs = frozenset({"eye"})

    @property
    def written(self) -> Rows:
        """The document's example."""
        return tuple((float(row.read), float(row.value)) for row in self.part.example)

    def scale(self, slot: str) -> Scale:
        """The strip's own scale; a colour at its top is above it."""
        p = self.part
        ends = (p.low, p.high)
        return Scale.printed(slot, ends, p.mark, p.scale_unit, over=True, under=float(p.low) > 0)

    def curve(self, n: float) -> float:
        """Along the table from nothing on, straight between rows, on beyond its last one."""
        rows = self.table if self.table[0][0] == 0 else ((0.0, 0.0), *self.table)
        return max(between(rows, self.read_at(n)), 0.0)

    @property
    def whose(self) -> str:
        """Whose table it is."""
        return f"lot {self.lot.number}" if self.lot.table else "the method’s example table"
