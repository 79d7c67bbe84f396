"""Days as moments, so that a query on days can use an index on times; and a moment as its day."""

from datetime import date, datetime, time, timedelta

from django.db.models import Q
from django.utils import timezone


def start_of(day: date) -> datetime:
    """The first moment of a day where the reader is."""
    return timezone.make_aware(datetime.combine(day, time()))


def date_text(day: date) -> str:
    """A date as "5 November 2026"."""
    return f"{day.day} {day:%B} {day.year}"


def day_text(moment: datetime) -> str:
    """The day of a moment where the reader is, as "5 November 2026"."""
    return date_text(timezone.localtime(moment))


def short_day(moment: datetime | date) -> str:
    """A day, short: "5 Nov 2026". Of a moment, where the reader is."""
    day = timezone.localtime(moment) if isinstance(moment, datetime) else moment
    return f"{day.day} {day:%b %Y}"


def moment_text(moment: datetime) -> str:
    """A moment where the reader is, as "5 November 2026, 10:16"."""
    local = timezone.localtime(moment)
    return f"{date_text(local)}, {local:%H:%M}"


def between_days(column: str, first: date | None, last: date | None) -> Q:
    """From *first* to *last*, both days included; None is open."""
    when = Q()
    if first:
        when &= Q(**{f"{column}__gte": start_of(first)})
    if last and last < date.max:
        when &= Q(**{f"{column}__lt": start_of(last + timedelta(days=1))})
    return when
