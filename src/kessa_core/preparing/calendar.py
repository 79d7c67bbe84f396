"""The days of sets as a calendar file (iCalendar, RFC 5545): titles and days, nothing else."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from itertools import islice

from icalendar import Calendar, Event
from icalendar.prop import vRecur

from kessa_core.preparing.rhythm import Rhythm, dates


@dataclass(frozen=True)
class CalendarEntry:
    """A set as a calendar shows it. key: the same for ever, by which a calendar knows it again."""

    key: str
    title: str
    rhythm: Rhythm
    begins: date


def calendar_file(name: str, entries: Iterable[CalendarEntry], now: datetime) -> bytes:
    """Recurring whole-day entries; a set that is not due by the calendar has none. now: with its
    time zone."""
    made = Calendar()
    made.add("prodid", "-//Kessa//Visits//EN")
    made.add("version", "2.0")
    made.add("x-wr-calname", name)
    for one in entries:
        first = next(islice(dates(one.rhythm, one.begins), 1), None)
        if first is None:
            continue
        event = Event()
        event.add("uid", f"{one.key}@kessa")
        event.add("summary", one.title)
        event.add("dtstamp", now)
        event.add("dtstart", first)
        event.add("dtend", first + timedelta(days=1))
        event.add("rrule", vRecur.from_ical(one.rhythm.rule))
        event.add("transp", "TRANSPARENT")
        made.add_component(event)
    return bytes(made.to_ical())
