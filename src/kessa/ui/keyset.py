"""Pages of a list that is ordered by a time and a number, the last as fast as the first."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.http import QueryDict
from django.utils.dateparse import parse_datetime

Place = tuple[datetime, int]
"""The time and the number of a row, which the next page begins after."""


@dataclass(frozen=True)
class Page:
    """rows: of this page. newer, older: the places where the pages beside it begin; None without
    such a page."""

    rows: list[Any]
    newer: str
    older: str
    is_first: bool

    @property
    def is_only(self) -> bool:
        return not (self.newer or self.older)


def keyset_page(rows: Any, asked: QueryDict, size: int, place_of: Callable[[Any], Place]) -> Page:
    """The page that *asked* names: after=PLACE, before=PLACE or end=1; else the first.

    rows: a query with newest_first(), older_than() and newer_than(); place_of: the place of a row.
    """
    after, before = read_place(asked.get("after", "")), read_place(asked.get("before", ""))
    backwards = bool(before or asked.get("end"))
    if backwards:
        found = rows.newer_than(*before) if before else rows
        taken = list(found.order_by("sampled_at", "pk")[: size + 1])
        more, taken = len(taken) > size, taken[:size][::-1]
        newer, older = more, bool(before)
    else:
        found = rows.older_than(*after) if after else rows
        taken = list(found.newest_first()[: size + 1])
        more, taken = len(taken) > size, taken[:size]
        newer, older = bool(after), more
    first = write_place(place_of(taken[0])) if taken and newer else ""
    last = write_place(place_of(taken[-1])) if taken and older else ""
    return Page(taken, first, last, not newer)


def numbered_page(rows: Any, asked: QueryDict, size: int) -> Page:
    """A page of rows that are listed by their own number, the highest first: after=NUMBER,
    before=NUMBER or end=1."""
    after, before = read_number(asked.get("after", "")), read_number(asked.get("before", ""))
    if before is not None or asked.get("end"):
        found = rows.filter(number__gt=before) if before is not None else rows
        taken = list(found.order_by("number")[: size + 1])
        newer, older, taken = len(taken) > size, before is not None, taken[:size][::-1]
    else:
        found = rows.filter(number__lt=after) if after is not None else rows
        taken = list(found.order_by("-number")[: size + 1])
        newer, older, taken = after is not None, len(taken) > size, taken[:size]
    first = str(taken[0].number) if taken and newer else ""
    last = str(taken[-1].number) if taken and older else ""
    return Page(taken, first, last, not newer)


def read_number(text: str) -> int | None:
    """A number from an address; None where it cannot be read."""
    return int(text) if text.isdecimal() and len(text) < 19 else None


def write_place(place: Place) -> str:
    """A place as it stands in an address."""
    at, number = place
    return f"{at.isoformat()}_{number}"


def read_place(text: str) -> Place | None:
    """A place from an address; None where it cannot be read."""
    at, _, number = text.partition("_")
    try:
        when = parse_datetime(at)
        found = int(number) if number.isdecimal() and len(number) < 19 else -1
    except ValueError:
        return None
    if when is None or when.tzinfo is None or found < 0 or not 1 < when.year < 9999:
        return None
    return when, found
