"""When a set of tests is due: each week, each month's last Saturday, or when something happens.

Dates follow RFC 5545 (2009), section 3.3.10, "Recurrence Rule".
"""

from calendar import day_name
from collections.abc import Collection, Iterator
from dataclasses import dataclass
from datetime import date, datetime, time
from itertools import takewhile
from typing import Annotated, Any, Literal

from dateutil.rrule import rrulestr
from pydantic import Field, ValidationError

from kessa_core.documents import Part
from kessa_core.errors import CoreError

DAYS = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")
WHICH = {1: "first", 2: "second", 3: "third", 4: "fourth", -1: "last"}
ALWAYS_THERE = 28
"""The last day of a month that every month has."""
MOST_MISSED = 400
Weekday = Annotated[int, Field(ge=0, le=6, description="0 is Monday.")]


class BadRhythm(CoreError):
    """Something that says no rhythm, and why."""


class Weekly(Part):
    """A day of the week, every so many weeks."""

    kind: Literal["weekly"] = "weekly"
    weekday: Weekday
    every: int = Field(default=1, ge=1, le=52)

    @property
    def rule(self) -> str:
        """The rule of RFC 5545."""
        return f"FREQ=WEEKLY;INTERVAL={self.every};BYDAY={DAYS[self.weekday]}"

    @property
    def words(self) -> str:
        """ "every Friday", "every 2 weeks on Friday"."""
        day = day_name[self.weekday]
        return f"every {day}" if self.every == 1 else f"every {self.every} weeks on {day}"


class MonthlyWeekday(Part):
    """The first, second, third, fourth or last (-1) of a day of the week, every so many months."""

    kind: Literal["monthly-weekday"] = "monthly-weekday"
    weekday: Weekday
    which: Literal[1, 2, 3, 4, -1]
    every: int = Field(default=1, ge=1, le=24)

    @property
    def rule(self) -> str:
        """The rule of RFC 5545."""
        return f"FREQ=MONTHLY;INTERVAL={self.every};BYDAY={self.which}{DAYS[self.weekday]}"

    @property
    def words(self) -> str:
        """ "the last Saturday of every month"."""
        return f"the {WHICH[self.which]} {day_name[self.weekday]} of {_months(self.every)}"


class MonthlyDay(Part):
    """A day of the month, every so many months; its last day where the month is shorter."""

    kind: Literal["monthly-day"] = "monthly-day"
    day: int = Field(ge=1, le=31)
    every: int = Field(default=1, ge=1, le=24)

    @property
    def rule(self) -> str:
        """The rule of RFC 5545."""
        if self.day <= ALWAYS_THERE:
            return f"FREQ=MONTHLY;INTERVAL={self.every};BYMONTHDAY={self.day}"
        days = ",".join(str(day) for day in range(ALWAYS_THERE, self.day + 1))
        return f"FREQ=MONTHLY;INTERVAL={self.every};BYMONTHDAY={days};BYSETPOS=-1"

    @property
    def words(self) -> str:
        """ "day 15 of every month"."""
        day = "the last day" if self.day == 31 else f"day {self.day}"
        return f"{day} of {_months(self.every)}"


class OnOccasion(Part):
    """Not by the calendar: somebody says that it is due."""

    kind: Literal["occasion"] = "occasion"
    occasion: Literal["rain", "thaw", "service", "call"]

    @property
    def rule(self) -> str:
        """None."""
        return ""

    @property
    def words(self) -> str:
        """ "after rain"."""
        return {
            "rain": "after heavy rain",
            "thaw": "at thaw",
            "service": "at each service",
            "call": "when asked for",
        }[self.occasion]


Rhythm = Weekly | MonthlyWeekday | MonthlyDay | OnOccasion


class _Given(Part):
    rhythm: Annotated[Rhythm, Field(discriminator="kind")]


def _months(every: int) -> str:
    return "every month" if every == 1 else f"every {every} months"


def read_rhythm(given: Any) -> Rhythm:
    """The rhythm in plain data. Raises BadRhythm in a sentence."""
    try:
        return _Given.model_validate({"rhythm": given}).rhythm
    except ValidationError as error:
        raise BadRhythm(error.errors()[0]["msg"]) from None


def dates(rhythm: Rhythm, begins: date) -> Iterator[date]:
    """The days on which it is due, from *begins* on, without an end; none for an occasion."""
    if not rhythm.rule:
        return
    start = datetime.combine(begins, time())
    for moment in rrulestr(rhythm.rule, dtstart=start):
        yield moment.date()


@dataclass(frozen=True)
class Standing:
    """due: the day that is due now, if it was not done; following: the next day after today;
    missed: days before *due* that nobody did, the newest first."""

    due: date | None
    following: date | None
    missed: tuple[date, ...] = ()


def standing_of(rhythm: Rhythm, begins: date, done: Collection[date], today: date) -> Standing:
    """Where a set stands on a day. done: the days of its rhythm that were done."""
    past = list(takewhile(lambda day: day <= today, dates(rhythm, begins)))[-MOST_MISSED:]
    following = next((day for day in dates(rhythm, begins) if day > today), None)
    open_days = [day for day in reversed(past) if day not in done]
    due = past[-1] if past and past[-1] not in done else None
    return Standing(due, following, tuple(day for day in open_days if day != due))
