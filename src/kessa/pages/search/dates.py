"""A day, a month or a year as people type it."""

import calendar
import re
from datetime import date

MONTHS = {name[:3].lower(): number for number, name in enumerate(calendar.month_name) if name}
ISO = re.compile(r"^(\d{4})(?:-(\d{1,2})(?:-(\d{1,2}))?)?$")
WORDS = re.compile(r"^(?:(\d{1,2})\.?\s+)?([a-z]{3,9})(?:\s+(\d{4}))?$")


def span(text: str, today: date) -> tuple[date, date] | None:
    """First and last day of "2026-03-02", "2026-03", "3 March", "March 2026"; None if no date.

    Without a year: the newest such day or month that is not in the future.
    """
    plain = " ".join(text.lower().replace(",", " ").split())
    if found := ISO.match(plain):
        year, month, day = (int(part) if part else None for part in found.groups())
        return _span(year or 0, month, day)
    found = WORDS.match(plain)
    month = MONTHS.get(found[2][:3]) if found else None
    if not found or not month:
        return None
    day = int(found[1]) if found[1] else None
    if found[3]:
        return _span(int(found[3]), month, day)
    this = _span(today.year, month, day)
    return this if this is None or this[0] <= today else _span(today.year - 1, month, day)


def _span(year: int, month: int | None, day: int | None) -> tuple[date, date] | None:
    if not 1900 <= year <= 2199:
        return None
    try:
        first = date(year, month or 1, day or 1)
    except ValueError:
        return None
    if day:
        return first, first
    last = month or 12
    return first, date(year, last, calendar.monthrange(year, last)[1])
