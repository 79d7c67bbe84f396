"""The rows of a sheet as they were typed, and what is wrong with them."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta

from django.http import QueryDict
from django.utils import timezone

from kessa.flows.paper import PaperRow
from kessa.library.models import Lot
from kessa.places.models import Point
from kessa.platform.models import Programme
from kessa_core.fast_entry import Cell, Column, acts_of_row, columns_of, preview, read_cell
from kessa_core.fast_entry.pasting import day_of, time_of
from kessa_core.methods import Method
from kessa_core.readings.lots import Lots

MOST_ROWS = 200
NOON = "12:00"
NOT_SAMPLED = re.compile(r"not sampled\s*[:,]?\s*(?P<why>.*)", re.IGNORECASE)
"""A note that says why nothing was taken."""


@dataclass
class TypedCell:
    """A cell: what was typed, what comes of it, and what is wrong."""

    column: Column
    text: str = ""
    said: str = ""
    wrong: str = ""


@dataclass
class TypedRow:
    """A line of the sheet as it was typed. wrong: of day, time and point, by their names."""

    number: int
    day: str = ""
    time: str = ""
    point: str = ""
    note: str = ""
    cells: list[TypedCell] = field(default_factory=list)
    wrong: dict[str, str] = field(default_factory=dict)

    @property
    def is_empty(self) -> bool:
        """Whether nothing was read, nor said why not."""
        return not self.not_sampled and not any(cell.text.strip() for cell in self.cells)

    @property
    def not_sampled(self) -> str:
        """Why nothing was sampled, where the note says that and nothing was read."""
        said = NOT_SAMPLED.match(self.note.strip())
        if said is None or any(cell.text.strip() for cell in self.cells):
            return ""
        return said["why"] or "no reason on the paper"

    @property
    def is_wrong(self) -> bool:
        return bool(self.wrong) or any(cell.wrong for cell in self.cells)


@dataclass(frozen=True)
class Sheet:
    """What the columns are, and where lines can be from."""

    programme: Programme
    methods: Sequence[Method]
    points: Sequence[Point]
    lots: Mapping[str, Lots]

    @classmethod
    def of(
        cls, programme: Programme, methods: Sequence[Method], points: Sequence[Point]
    ) -> "Sheet":
        """The sheet of these methods, with the lots in use."""
        names = {name for method in methods for name in method.materials}
        in_use = list(Lot.objects.of(programme).newest_of(names).values())
        lots = {one.id: Lot.all_as_core(Lot.resting_on(one, in_use)) for one in methods}
        return cls(programme, methods, points, lots)

    @property
    def columns(self) -> list[Column]:
        return [column for method in self.methods for column in columns_of(method)]

    def blank(self, number: int, point: str = "", day: str = "") -> TypedRow:
        """A line in which nothing was typed yet."""
        cells = [TypedCell(column) for column in self.columns]
        return TypedRow(number, day=day, point=point, cells=cells)

    def typed(self, sent: QueryDict) -> list[TypedRow]:
        """The lines that were sent."""
        numbers = sorted({int(name[4:]) for name in sent if _is_number(name)})[:MOST_ROWS]
        rows = []
        for number in numbers:
            row = self.blank(number, _text(sent, f"point-{number}"))
            row.day, row.time = _text(sent, f"day-{number}"), _text(sent, f"time-{number}")
            row.note = _text(sent, f"note-{number}")
            for cell in row.cells:
                cell.text = _text(sent, f"cell-{number}-{cell.column.key}")
            rows.append(row)
        return rows

    def read(self, rows: Sequence[TypedRow]) -> list[PaperRow]:
        """What these lines say; those that are empty, or in which something is wrong, say nothing.
        A line without a day is of the day of the line before."""
        found, before = [], ""
        for row in rows:
            if not row.is_empty and (read := self._line(row, before)):
                found.append(read)
            before = row.day or before
        return found

    def _line(self, row: TypedRow, day_before: str) -> PaperRow | None:
        tests: dict[str, list[tuple[str, dict[str, object]]]] = {}
        readings = 0
        for method in self.methods:
            mine = [cell for cell in row.cells if cell.column.method is method]
            read = self._cells(method, mine)
            if any(cell.acts for cell in read.values()):
                tests[method.id] = acts_of_row(method, read)
                readings += sum(bool(cell.acts) for cell in read.values())
        at = self._moment(row, day_before)
        point = next((one for one in self.points if str(one.pk) == row.point), None)
        if point is None:
            row.wrong["point"] = "Choose the point."
        if row.is_wrong or at is None or point is None:
            return None
        if row.not_sampled:
            tests = {method.id: [] for method in self.methods}
        return PaperRow(point, at, tests, row.note, readings, row.not_sampled)

    def _cells(self, method: Method, typed: Sequence[TypedCell]) -> dict[str, Cell]:
        """The cells of a test read, with what comes of them said beside each."""
        lots = self.lots[method.id]
        read = {
            one.column.stage: read_cell(method, one.column.stage, one.text, lots) for one in typed
        }
        for one in typed:
            one.wrong = read[one.column.stage].wrong
        if any(cell.wrong for cell in read.values()) or not any(c.acts for c in read.values()):
            return read
        state, outcomes = preview(method, acts_of_row(method, read), timezone.now(), lots)
        by_stage = {one.stage: one for one in outcomes}
        for one in typed:
            outcome = by_stage[one.column.stage]
            if outcome.value and one.text.strip():
                one.said = f"{outcome.value.text} ({outcome.value.range_text})"
            elif one.text.strip():
                one.said = outcome.cause or outcome.finish.replace("-", " ")
        if state.ignored and typed:
            last = next(one for one in reversed(typed) if one.text.strip())
            last.wrong = f"{state.ignored[0][1].capitalize()}."
        return read

    def _moment(self, row: TypedRow, day_before: str) -> datetime | None:
        """When it was sampled; without a time at noon, today before noon just now."""
        day = day_of(row.day or day_before)
        if day is None:
            row.wrong["day"] = "Type the day of sampling, such as 28.11.2026."
        at = time_of(row.time or NOON)
        if at is None:
            row.wrong["time"] = "Type a time, such as 9:40."
        if day is None or at is None:
            return None
        moment, now = timezone.make_aware(datetime.combine(day, at)), timezone.localtime()
        if not row.time and day == now.date():
            moment = min(moment, now.replace(second=0, microsecond=0))
        if moment > now + timedelta(minutes=2):
            if day > now.date():
                row.wrong["day"] = "This day is in the future."
            else:
                row.wrong["time"] = "This time is still to come today."
            return None
        return moment


def _is_number(name: str) -> bool:
    return name.startswith("day-") and name[4:].isdecimal() and len(name) < 9


def _text(sent: QueryDict, name: str) -> str:
    return sent.get(name, "").replace("\x00", "")[:240].strip()
