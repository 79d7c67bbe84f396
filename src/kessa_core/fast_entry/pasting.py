"""A table pasted from a spreadsheet: which column is the day, the time, the point, which test."""

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, time

from kessa_core.errors import CoreError
from kessa_core.fast_entry.columns import Column

MOST_ROWS, MOST_COLUMNS, MOST_TEXT = 200, 60, 200_000
DAY, TIME, POINT, NOTE, NOTHING = "day", "time", "point", "note", ""
HEADINGS = {
    DAY: ("date", "day", "sampled on", "datum"),
    TIME: ("time", "hour", "sampled at", "clock"),
    POINT: ("point", "site", "place", "station", "location", "sample point", "where"),
    NOTE: ("note", "notes", "remark", "remarks", "comment", "comments"),
}
_DAYS = (
    re.compile(r"^(?P<year>\d{4})-(?P<month>\d{1,2})-(?P<day>\d{1,2})$"),
    re.compile(r"^(?P<day>\d{1,2})[./](?P<month>\d{1,2})[./](?P<year>\d{4})$"),
    re.compile(r"^(?P<day>\d{1,2})[./](?P<month>\d{1,2})[./](?P<short>\d{2})$"),
)
_TIME = re.compile(r"^(\d{1,2})[:.h](\d{2})(?::\d{2})?\s*(am|pm)?$", re.IGNORECASE)


class BadTable(CoreError):
    """What was pasted is no table, and why."""


@dataclass(frozen=True)
class Guess:
    """What a pasted column is taken to be: day, time, point, note, the key of a sheet's column, or
    nothing. sure: its heading says so by itself."""

    is_: str
    sure: bool


@dataclass(frozen=True)
class Pasted:
    """heads: the headings, as they were pasted; rows: every cell; guesses: a column each."""

    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    guesses: tuple[Guess, ...]


def read_pasted(text: str, columns: Sequence[Column]) -> Pasted:
    """The table in *text*: tabs, semicolons or commas between cells, headings in the first line.

    Raises BadTable in a sentence.
    """
    if len(text) > MOST_TEXT:
        raise BadTable("This is too much at once.", remedy="Paste at most 200 lines.")
    rows = [row for row in _rows(text) if any(cell.strip() for cell in row)]
    if len(rows) < 2:
        raise BadTable(
            "Paste a table with its headings in the first line.",
            remedy="One line below it is one sample.",
        )
    if len(rows) > MOST_ROWS + 1 or max(map(len, rows)) > MOST_COLUMNS:
        raise BadTable("This table is too large.", remedy="Paste at most 200 lines, 60 columns.")
    heads, *body = rows
    width = len(heads)
    cells = tuple(tuple(cell.strip() for cell in [*row, *[""] * width][:width]) for row in body)
    return Pasted(tuple(head.strip() for head in heads), cells, _guesses(heads, cells, columns))


def day_of(text: str) -> date | None:
    """A day as people write it: 2026-11-28, 28.11.2026, 28/11/26. None where it is none."""
    for pattern in _DAYS:
        if found := pattern.match(text.strip()):
            parts = found.groupdict()
            year = int(parts.get("year") or 2000 + int(parts["short"]))
            try:
                return date(year, int(parts["month"]), int(parts["day"]))
            except ValueError:
                return None
    return None


def time_of(text: str) -> time | None:
    """A time of day: 9:40, 09.40, 2:15 pm. None where it is none."""
    found = _TIME.match(text.strip())
    if not found:
        return None
    hour = int(found[1]) % 12 + 12 * (found[3].casefold() == "pm") if found[3] else int(found[1])
    minute = int(found[2])
    return time(hour, minute) if hour < 24 and minute < 60 else None


def _rows(text: str) -> list[list[str]]:
    """Tabs where there are any, as spreadsheets put them; else what the first line has most of."""
    first = text.strip().splitlines()[0] if text.strip() else ""
    other = ";" if first.count(";") >= first.count(",") else ","
    between = "\t" if "\t" in text else other
    return list(csv.reader(io.StringIO(text.strip("\n")), delimiter=between))


def _guesses(
    heads: Sequence[str], rows: Sequence[Sequence[str]], columns: Sequence[Column]
) -> tuple[Guess, ...]:
    taken: set[str] = set()
    found = []
    for at, head in enumerate(heads):
        guess = _by_heading(head, columns) or _by_cells([row[at] for row in rows])
        if guess.is_ in taken:
            guess = Guess(NOTHING, False)
        taken |= {guess.is_} - {NOTHING}
        found.append(guess)
    return tuple(found)


def _by_heading(head: str, columns: Sequence[Column]) -> Guess | None:
    said = _plain(head)
    for what, words in HEADINGS.items():
        if said in words:
            return Guess(what, True)
    named = [column for column in columns if _plain(column.title) == said]
    if len(named) == 1:
        return Guess(named[0].key, True)
    about = [column for column in columns if said and _is_about(said, column)]
    return Guess(about[0].key, len(about) == 1) if about else None


def _is_about(said: str, column: Column) -> bool:
    """Whether a heading names what the column measures: its parameter, its title, its formula."""
    stage = next(one for one in column.method.stages if one.id == column.stage)
    quantity = stage.measures.quantity
    names = {_plain(quantity.name), _plain(stage.title), _plain(column.title),
             _plain(quantity.parameter), _plain(quantity.basis)}  # fmt: skip
    bare = _plain(re.sub(r"[(\[].*", "", said))
    first = bare.split(" ")[0] if bare else ""
    return bare in names or (len(first) > 2 and any(name.split(" ")[0] == first for name in names))


def _by_cells(cells: Sequence[str]) -> Guess:
    """A column without a heading that says something, by what stands in it."""
    filled = [cell for cell in cells if cell]
    if filled and all(day_of(cell) for cell in filled):
        return Guess(DAY, False)
    if filled and all(time_of(cell) for cell in filled):
        return Guess(TIME, False)
    return Guess(NOTHING, False)


def _plain(text: str) -> str:
    return " ".join(re.sub(r"[^\w()\[\]. ]+", " ", text.casefold()).split())
