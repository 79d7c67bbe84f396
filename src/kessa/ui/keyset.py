"""Pages of a list whose rows have places in an order, the last page as fast as the first."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.http import QueryDict
from django.utils.dateparse import parse_datetime

Place = tuple[Any, ...]
"""What a row is ordered by, which the page beside it begins after."""


@dataclass(frozen=True)
class Order:
    """How a list is ordered. place_of: the place of a row; read and write: a place as it stands in
    an address, None where it cannot be read."""

    place_of: Callable[[Any], Place]
    write: Callable[[Place], str]
    read: Callable[[str], Place | None]


@dataclass(frozen=True)
class Page:
    """rows: of this page. newer, older: the places where the pages beside it begin; empty without
    such a page."""

    rows: list[Any]
    newer: str
    older: str

    @property
    def is_only(self) -> bool:
        return not (self.newer or self.older)


def keyset_page(rows: Any, asked: QueryDict, size: int, order: Order) -> Page:
    """The page that *asked* names: after=PLACE, before=PLACE or end=1; else the first.

    rows: a query with newest_first(), oldest_first(), older_than() and newer_than().
    """
    after, before = order.read(asked.get("after", "")), order.read(asked.get("before", ""))
    if before or asked.get("end"):
        found = rows.newer_than(*before) if before else rows
        taken = list(found.oldest_first()[: size + 1])
        newer, older, taken = len(taken) > size, bool(before), taken[:size][::-1]
    else:
        found = rows.older_than(*after) if after else rows
        taken = list(found.newest_first()[: size + 1])
        newer, older, taken = bool(after), len(taken) > size, taken[:size]
    first = order.write(order.place_of(taken[0])) if taken and newer else ""
    last = order.write(order.place_of(taken[-1])) if taken and older else ""
    return Page(taken, first, last)


def _write_sampled(place: Place) -> str:
    at, number = place
    return f"{at.isoformat()}_{number}"


def read_sampled(text: str) -> tuple[datetime, int] | None:
    """A sampling time and a number from an address; None where they cannot be read."""
    at, _, number = text.partition("_")
    try:
        when = parse_datetime(at)
    except ValueError:
        return None
    found = read_number(number)
    if when is None or when.tzinfo is None or found is None or not 1 < when.year < 9999:
        return None
    return when, found[0]


def read_number(text: str) -> tuple[int] | None:
    """A number from an address; None where it cannot be read."""
    return (int(text),) if text.isdecimal() and len(text) < 19 else None


BY_SAMPLING_TIME = Order(lambda row: (row.sampled_at, row.pk), _write_sampled, read_sampled)
BY_TIME_IN_FORCE = Order(lambda row: (row.in_force_at, row.pk), _write_sampled, read_sampled)
BY_NUMBER = Order(lambda row: (row.number,), lambda place: str(place[0]), read_number)
