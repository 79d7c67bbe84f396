"""A scale looked up in a printed table: a depth at which a mark vanishes, a display, a strip.

The table rises or falls, and need not be straight; where it has columns (a table for each
temperature, say) a second reading chooses between them, straight from one to the next. A lot's own
table takes the place of the document's.
"""

from collections.abc import Sequence
from decimal import Decimal
from functools import cached_property
from itertools import pairwise
from math import inf
from typing import Any, ClassVar, Literal

from pydantic import Field, model_validator

from kessa_core.documents import Amount, Figure, Measurand, Part, Short, Signed
from kessa_core.influences.part import EYE, PORTION, SourceInfo
from kessa_core.quantities import Value
from kessa_core.readings.displays import NOISE, Display
from kessa_core.readings.reading import Reading
from kessa_core.readings.scale import Scale, whole_steps

Rows = tuple[tuple[float, float], ...]


class Row(Part):
    """One row of the table: the strip's own unit and the value."""

    read: Figure
    value: Figure


class TableRow(Part):
    """One row: what is read, and the value; one value a column where the table has columns."""

    read: Figure
    value: Figure | None = None
    values: tuple[Figure, ...] = Field(default=(), max_length=8)


class Across(Part):
    """What chooses the column: a second reading, and where each column stands."""

    title: Short = Field(description="What is read, such as the temperature of the sample.")
    unit: Short
    at: tuple[Signed, ...] = Field(min_length=2, max_length=8, description="Rising.")
    mark: Amount = Field(default="1", description="The finest part of it that is read.")

    @model_validator(mode="after")
    def _rising(self) -> "Across":
        if any(float(b) <= float(a) for a, b in pairwise(self.at)):
            raise ValueError("at must rise")
        whole_steps(self.mark, "mark", low=self.at[0], high=self.at[-1])
        return self


class TablePart(Part):
    """A scale of its own unit, and the table that turns it into a value."""

    by: Literal["table"]
    device: Literal["depth-tube", "display", "strip", "scale"]
    instrument: Short | None = Field(default=None, description="display: what shows it.")
    scale_unit: Short = Field(description="The scale's own unit, kept beside the value.")
    low: Figure = Field(default="0", description="The foot of the scale.")
    high: Amount = Field(description="The top of the scale.")
    mark: Amount = Field(description="The finest part that is read.")
    rule: Literal["closest-row", "interpolate"] = "interpolate"
    rows: tuple[TableRow, ...] = Field(min_length=3, max_length=80)
    across: Across | None = None

    @model_validator(mode="after")
    def _rows_fit(self) -> "TablePart":
        whole_steps(self.mark, "mark", low=self.low, high=self.high)
        columns = len(self.across.at) if self.across else 0
        for row in self.rows:
            if len(row.values) != columns or (row.value is None) != bool(columns):
                how = f"values with {columns} figures" if columns else "value"
                raise ValueError(f"rows: the row at {row.read} needs {how}")
        for column in columns_of(self):
            if wrong := wrong_table(column):
                raise ValueError(f"rows {wrong}")
        if self.across and self.rule != "interpolate":
            raise ValueError("across: between columns it is always interpolated")
        ends = float(self.rows[0].read), float(self.rows[-1].read)
        if float(self.low) > ends[0] or float(self.high) < ends[1]:
            raise ValueError("rows lie outside the scale, which goes from low to high")
        return self


def columns_of(part: Any) -> list[Rows]:
    """The table's columns, each as (read, value) rows."""
    if part.across is None:
        return [tuple((float(row.read), float(row.value or 0)) for row in part.rows)]
    return [
        tuple((float(row.read), float(row.values[at])) for row in part.rows)
        for at in range(len(part.across.at))
    ]


def wrong_table(rows: Sequence[tuple[float, float]]) -> str:
    """What is wrong with the order of a table's rows; else nothing."""
    if any(b[0] <= a[0] for a, b in pairwise(rows)):
        return "must rise in what is read"
    steps = [b[1] - a[1] for a, b in pairwise(rows)]
    if all(step > 0 for step in steps) or all(step < 0 for step in steps):
        return ""
    return "must rise, or fall, from row to row"


class Tabled(Display):
    """What readings share that are looked up in a table, which may fall."""

    option_field = "rule"
    option_title = "Between two rows of the table"
    options: ClassVar = {"closest-row": "the closest row", "interpolate": "the line between them"}

    @property
    def written(self) -> Rows:
        """The table of the document."""
        raise NotImplementedError

    @cached_property
    def table(self) -> Rows:
        """The lot's own table, or the document's where the lot has none."""
        return self.lot.table or self.written

    @cached_property
    def falls(self) -> bool:
        """Whether the value falls as what is read rises."""
        return self.table[-1][1] < self.table[0][1]

    def position(self, seen: Reading) -> float:
        """Steps from the end of the scale where the value is lowest."""
        return self.main.high - seen.n if self.falls else seen.n

    @property
    def reach(self) -> tuple[int, int]:
        """A falling scale begins at its top."""
        scale = self.main
        return (0, scale.high - scale.low) if self.falls else (scale.low, scale.high)

    def example(self, position: int) -> Reading:
        """A reading at this position."""
        return Reading(self.main.high - position if self.falls else position)

    def weights(self) -> dict[str, int]:
        """A falling scale is counted from its top."""
        return {"reading": -2 if self.falls else 2}

    @property
    def halves_at_zero(self) -> int:
        """A falling scale is counted from its top."""
        return 2 * self.main.high if self.falls else 0

    def read_at(self, position: float) -> float:
        """The figure on the scale at a position."""
        scale = self.main
        return scale.figure(scale.high - position if self.falls else position)

    def curve(self, n: float) -> float:
        """Along the table, straight between rows and on beyond its ends; never below nothing."""
        return max(between(self.table, self.read_at(n)), 0.0)

    def format_reading(self, seen: Reading) -> str:
        """ "12.4 cm"; past an end of the scale, on which side of it."""
        scale = self.main
        if seen.kind not in ("beyond", "below") or not self.falls:
            return super().format_reading(seen)
        low = seen.kind == "beyond"
        return f"{'below' if low else 'above'} {scale.say(scale.low if low else scale.high)}"

    @property
    def beyond_title(self) -> str:
        """Where the scale ends at its highest value."""
        scale = self.main
        if not self.falls:
            return super().beyond_title
        return f"Below {scale.say(scale.low)} {scale.unit}".rstrip()

    def number(self, seen: Reading) -> Decimal:
        """By the method's rule: the closest row (the higher value of two equally close), or the
        line between two."""
        at = float(self.position(seen))
        if self.part.rule == "interpolate":
            return Decimal(repr(round(self.curve(at), 9)))
        read = self.read_at(at)
        nearest = min(self.table, key=lambda row: (round(abs(row[0] - read), 9), -row[1]))
        return Decimal(repr(nearest[1]))

    def working(self, used: Sequence[Reading], blanks: Sequence[Reading], value: Value) -> str:
        """ "3.4 strip units, between rows of the lot's table: 31 mg/L"."""
        if value.qualifier:
            return f"{self.format_reading(used[-1])}: {value.text}"
        said = ", ".join(self.format_reading(seen) for seen in used)
        rows = "closest row" if self.part.rule == "closest-row" else "between rows"
        return f"{said}, {rows} of {self.whose}: {value.text}"

    @property
    def whose(self) -> str:
        """Whose table it is."""
        return f"lot {self.lot.number}" if self.lot.table else "the method’s table"


def between(rows: Rows, at: float) -> float:
    """The value at a place along a table, straight between rows and on beyond its ends."""
    after = next((i for i, row in enumerate(rows) if at <= row[0]), len(rows) - 1)
    (a, x), (b, y) = rows[max(after, 1) - 1], rows[max(after, 1)]
    return x + (y - x) * (at - a) / (b - a)


class Table(Tabled):
    """A scale looked up in a table."""

    by = "table"
    words = "looked up in a table"
    document = TablePart
    step = "one mark of the scale"
    knows: ClassVar = {
        "eye": EYE,
        "noise": NOISE,
        "portion": PORTION,
        "lot": SourceInfo("relative", "how well the table fits this lot"),
        "table": SourceInfo("relative", "how well the table fits"),
        "light": SourceInfo("steps", "light and stirring that day"),
    }

    @property
    def foot(self) -> float:
        """Past the end where the value is lowest too."""
        return self.reach[0] - self.room

    @property
    def above_words(self) -> str:
        """Past the end of the scale where the value is highest."""
        return "Past the lowest mark" if self.falls else super().above_words

    @property
    def below_words(self) -> str:
        """Past the end of the scale where the value is lowest."""
        return "Past the highest mark" if self.falls else super().below_words

    @property
    def instrument(self) -> str:
        """What shows it, where it is a display."""
        return self.part.instrument or ""

    @property
    def written(self) -> Rows:
        """The document's first column."""
        return columns_of(self.part)[0]

    @property
    def reading_fields(self) -> tuple[str, ...]:
        """What chooses the column first."""
        return ("across", "reading") if self.part.across else ("reading",)

    def scale(self, slot: str) -> Scale:
        """The scale; past the end where the value is highest it says "above", past the other
        "below". Or what chooses the column."""
        p = self.part
        if slot == "across":
            ends = p.across.at[0], p.across.at[-1]
            return Scale.printed(slot, ends, p.across.mark, p.across.unit, over=False)
        whole = Scale.printed(slot, (p.low, p.high), p.mark, p.scale_unit, over=True, under=True)
        return whole.turned() if self.falls else whole

    @cached_property
    def columns(self) -> list[tuple[float, Rows]]:
        """Where each column stands, and its rows; one of them where the lot has its own table."""
        if not self.part.across or self.lot.table:
            return [(0.0, self.table)]
        return list(zip(map(float, self.part.across.at), columns_of(self.part), strict=True))

    def weights(self) -> dict[str, int]:
        """What is read across columns is computed later."""
        return {} if self.part.across else super().weights()

    def column(self, seen: Reading) -> Rows:
        """The column for what was read beside it, straight between two."""
        at = self.scale("across").figure(seen.slot("across")) if self.part.across else 0.0
        places = [place for place, _ in self.columns]
        if len(places) == 1:
            return self.columns[0][1]
        right = next((i for i, place in enumerate(places) if at <= place), len(places) - 1)
        left = max(right - 1, 0)
        span = places[right] - places[left]
        share = (at - places[left]) / span if span else 0.0
        pairs = zip(self.columns[left][1], self.columns[right][1], strict=True)
        return tuple((a[0], a[1] + share * (b[1] - a[1])) for a, b in pairs)

    def position(self, seen: Reading) -> float:
        """The place of the first column that has the same value."""
        if not self.part.across:
            return super().position(seen)
        return self._place(seen, float(seen.n))

    def _place(self, seen: Reading, n: float) -> float:
        value = between(self.column(seen), self.main.figure(n))
        turned = [(row[1], row[0]) for row in self.table]
        read = between(tuple(sorted(turned)), value)
        step = self.main.figure(1)
        return self.main.high - read / step if self.falls else read / step

    def edges(self, seen: Reading) -> tuple[float, float]:
        """Half a mark to both sides, as wide as it is in its own column."""
        if not self.part.across or seen.kind != "plain":
            return super().edges(seen)
        low, high = sorted(self._place(seen, seen.n + side) for side in (-0.5, 0.5))
        first, last = self.reach
        return (-inf if low <= first else low), (inf if high >= last else high)

    @classmethod
    def validation_error(cls, part: Any, measures: Measurand) -> str:
        """A display names its instrument."""
        if (part.device == "display") != (part.instrument is not None):
            return "instrument is named when, and only when, device is display"
        return ""

    def format_reading(self, seen: Reading) -> str:
        """ "12.4 cm", "12.4 cm at 18 °C"."""
        said = super().format_reading(seen)
        if not self.part.across or seen.kind != "plain":
            return said
        across = self.scale("across")
        return f"{said} at {across.say(seen.slot('across'))} {across.unit}"
