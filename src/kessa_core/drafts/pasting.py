"""A leaflet's table, as it is copied: shades and their values, or rows of reading and value."""

import re
from dataclasses import dataclass
from typing import TypeVar

from kessa_core.errors import CoreError

_NUMBER = r"\d{1,6}(?:[.,]\d{1,6})?"
_HEX = r"#[0-9A-Fa-f]{6}"
MOST = 80
T = TypeVar("T")


class BadPaste(CoreError):
    """Text that is no table."""


@dataclass(frozen=True)
class PastedShade:
    """A value, and the name and colour beside it where they were copied."""

    value: str
    name: str = ""
    hex: str = ""


def shades(text: str) -> list[PastedShade]:
    """A shade a line: a value, then a name and a colour code where they stand.

    Or one line of values only, as a card prints them. Raises BadPaste with the line that is wrong.
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) == 1 and len(re.findall(_NUMBER, lines[0])) > 1:
        lines = re.findall(_NUMBER, re.sub(_HEX, "", lines[0]))
    found = []
    for number, line in enumerate(lines, 1):
        colour = re.search(_HEX, line)
        rest = line.replace(colour[0], " ") if colour else line
        value = re.search(_NUMBER, rest)
        if not value:
            raise BadPaste(f"Line {number} has no number.", remedy="A value first: 0.5 pale pink.")
        name = re.sub(r"[\s;|,:=\t]+", " ", rest.replace(value[0], " ", 1))
        name = re.sub(r"\b(mg/L|ppm|mg/l)\b", "", name).strip()
        found.append(PastedShade(value[0].replace(",", "."), name, colour[0] if colour else ""))
    return _some(found)


def rows(text: str) -> list[tuple[str, str]]:
    """A row a line: a reading, then its value. Raises BadPaste with the line that is wrong."""
    found = []
    for number, line in enumerate(filter(str.strip, text.splitlines()), 1):
        figures = re.findall(_NUMBER, line)
        if len(figures) != 2:
            raise BadPaste(f"Line {number} is no row.", remedy="A reading, then its value: 2.4 18.")
        found.append((figures[0].replace(",", "."), figures[1].replace(",", ".")))
    return _some(found)


def _some(found: list[T]) -> list[T]:
    if not found:
        raise BadPaste("Nothing was pasted.", remedy="Copy the table from the leaflet.")
    if len(found) > MOST:
        raise BadPaste(f"At most {MOST} rows.", remedy="Leave out what the scale does not need.")
    return found
