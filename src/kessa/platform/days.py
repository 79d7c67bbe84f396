"""Days as moments, so that a query on days can use an index on times; and a moment as its day."""

from datetime import date, datetime, time, timedelta

from django.db.models import Q
from django.utils import timezone
from django.utils.formats import date_format


def start_of(day: date) -> datetime:
    """The first moment of a day where the reader is."""
    return timezone.make_aware(datetime.combine(day, time()))


def date_text(day: date) -> str:
    """A date as "5 November 2026"."""
    return date_format(day, "j F Y")


def day_text(moment: datetime) -> str:
    """The day of a moment where the reader is, as "5 November 2026"."""
    return date_text(timezone.localtime(moment))


def moment_text(moment: datetime) -> str:
    """A moment where the reader is, as "5 November 2026, 10:16"."""
    return date_format(timezone.localtime(moment), "j F Y, H:i")


def between_days(column: str, first: date | None, last: date | None) -> Q:
    """From *first* to *last*, both days included; None is open."""
    when = Q()
    if first:
        when &= Q(**{f"{column}__gte": start_of(first)})
    if last and last < date.max:
        when &= Q(**{f"{column}__lt": start_of(last + timedelta(days=1))})
    return when
