"""The table that a lot's leaflet prints, as a person copies it: one row a line."""

import re

from kessa_core.errors import CoreError

LEAST, MOST = 3, 80
_ROW = re.compile(r"^\s*(\d{1,4}(?:[.,]\d{1,3})?)[\s;:=|]+(\d{1,6}(?:[.,]\d{1,4})?)\s*$")


class BadTable(CoreError):
    """A table that cannot be read, or does not rise."""


def read_table(text: str) -> tuple[tuple[str, str], ...]:
    """Rows (reading, value), both rising; nothing for empty text.

    Raises BadTable with the line that is wrong.
    """
    rows: list[tuple[str, str]] = []
    for number, line in enumerate(text.strip().splitlines(), 1):
        if not line.strip():
            continue
        found = _ROW.match(line)
        if not found:
            raise BadTable(f"Line {number} is no row.", remedy="Reading, then value: 2.4 18.")
        reading, value = (part.replace(",", ".") for part in found.groups())
        if rows and not (
            float(reading) > float(rows[-1][0]) and float(value) >= float(rows[-1][1])
        ):
            raise BadTable(f"Line {number} does not rise.", remedy="Copy the rows from the lowest.")
        rows.append((reading, value))
    if rows and not LEAST <= len(rows) <= MOST:
        raise BadTable(f"A table has {LEAST} to {MOST} rows; this one has {len(rows)}.")
    return tuple(rows)
