"""The days of the sets as a calendar file, and as a feed that a calendar program reads."""

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.views.decorators.http import require_POST

from kessa.people.throttle import TooOften, count
from kessa.platform import clock
from kessa.platform.models import Programme
from kessa.platform.permissions import Permission, by_capability, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.platform.scoping import narrow_to
from kessa.visits.feeds import allow_feed, feed_of_token, withdraw_feed
from kessa.visits.models import TestSet
from kessa_core.preparing.calendar import CalendarEntry, calendar_file

MOST_AN_HOUR = 60
SHOWN_ONCE = "calendar-token"
"""Where a session keeps a token until the page has shown it."""


@needs(Permission.VIEW)
def file(request: ProgrammeRequest) -> HttpResponse:
    """The calendar file."""
    return _answer(request.programme)


@require_POST
@needs(Permission.VIEW)
def allow(request: ProgrammeRequest) -> HttpResponse:
    """A new address of the feed, shown once; an older one ends."""
    token = allow_feed(request.programme, request.user)
    request.session[SHOWN_ONCE] = request.build_absolute_uri(reverse("calendar-feed", args=[token]))
    return redirect("sets", request.programme.slug)


@require_POST
@needs(Permission.VIEW)
def withdraw(request: ProgrammeRequest) -> HttpResponse:
    """The feed of this person ends."""
    withdraw_feed(request.programme, request.user)
    return redirect("sets", request.programme.slug)


@by_capability
def feed(request: HttpRequest, token: str) -> HttpResponse:
    """The same file by its token; it gives titles and days and nothing else."""
    found = feed_of_token(token)
    if found is None:
        raise Http404
    try:
        count(f"calendar:{found.pk}", MOST_AN_HOUR, 3600)
    except TooOften:
        return HttpResponse(status=429, headers={"Retry-After": "3600"})
    narrow_to(found.programme_id)
    return _answer(found.programme)


def _answer(programme: Programme) -> HttpResponse:
    sets = TestSet.objects.of(programme).in_use()
    entries = (
        CalendarEntry(f"set-{programme.pk}-{one.pk}", one.name, one.when, one.begins)
        for one in sets
    )
    made = calendar_file(programme.name, entries, clock.now())
    answer = HttpResponse(made, content_type="text/calendar; charset=utf-8")
    answer["Content-Disposition"] = 'inline; filename="kessa.ics"'
    return answer
