"""Sets of tests: which are due, one with what to pack, and what is printed for it."""

from datetime import date

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from kessa.flows.packing import packing_of, points_of, tests_of_set
from kessa.flows.testing import begin_ready
from kessa.pages.sets.calendar_views import SHOWN_ONCE
from kessa.pages.sets.paper import labels_of
from kessa.platform import clock
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.visits import sets as services
from kessa.visits.models import CalendarFeed, TestSet, Visit
from kessa_core.describing.data_sheet import data_sheet

LAST_VISITS = 6


def _today() -> date:
    return timezone.localdate(clock.now())


def _found(request: ProgrammeRequest, set_id: int) -> TestSet:
    sets = TestSet.objects.of(request.programme).with_days_done()
    found: TestSet = get_object_or_404(sets, pk=set_id)
    return found


@needs(Permission.VIEW)
def sets(request: ProgrammeRequest) -> HttpResponse:
    """Every set with the day it is due."""
    every = TestSet.objects.of(request.programme)
    feeds = CalendarFeed.objects.of(request.programme).for_person(request.user).active()
    context = {
        "sets": services.today_of(every.in_use().for_lists(), _today()),
        "stopped": every.filter(in_use=False),
        "today": _today(),
        "feed": feeds.first(),
        "address": request.session.pop(SHOWN_ONCE, ""),
    }
    return render(request, "sets/sets.html", context)


@needs(Permission.VIEW)
def one_set(request: ProgrammeRequest, set_id: int) -> HttpResponse:
    """When it is due, what it asks where, what to pack, and beginning its visit."""
    found = _found(request, set_id)
    visits = Visit.objects.of(request.programme).filter(set=found).order_by("-begun_at")
    context = {
        "set": found,
        "now": services.today_of([found], _today())[0],
        "today": _today(),
        "points": tests_of_set(found),
        "packing": packing_of(found),
        "visits": visits[:LAST_VISITS],
    }
    return render(request, "sets/set.html", context)


@require_POST
@needs(Permission.TEST)
def call_out(request: ProgrammeRequest, set_id: int) -> HttpResponse:
    """A set that is due after rain, at thaw or at a service is due from now on."""
    found = _found(request, set_id)
    services.call_out(found, request.user)
    return redirect("set", request.programme.slug, found.pk)


@require_POST
@needs(Permission.TEST)
def begin(request: ProgrammeRequest, set_id: int) -> HttpResponse:
    """The visit of a set."""
    found = _found(request, set_id)
    now = services.today_of([found], _today())[0]
    due = now.due or (_today() if not found.when.rule else None)
    asked = services.asked_by(found, points_of(found))
    made = begin_ready(request.programme, request.user, asked, services.prepared_for(found, due))
    return redirect("visit", request.programme.slug, made.pk)


@needs(Permission.VIEW)
def packing(request: ProgrammeRequest, set_id: int) -> HttpResponse:
    """The packing list, to print."""
    found = _found(request, set_id)
    context = {
        "set": found,
        "packing": packing_of(found),
        "points": tests_of_set(found),
        "now": services.today_of([found], _today())[0],
    }
    return render(request, "sets/packing.html", context)


@needs(Permission.VIEW)
def sheet(request: ProgrammeRequest, set_id: int) -> HttpResponse:
    """A blank data sheet for the whole visit, in the order of the work."""
    found = _found(request, set_id)
    points = [
        (one.point, [(method, data_sheet(method)) for method in one.in_order])
        for one in tests_of_set(found)
    ]
    return render(request, "sets/sheet.html", {"set": found, "points": points})


@needs(Permission.VIEW)
def labels(request: ProgrammeRequest, set_id: int) -> HttpResponse:
    """Labels for the sample bottles, to print and cut."""
    found = _found(request, set_id)
    context = {"set": found, "labels": labels_of(found, tests_of_set(found), packing_of(found))}
    return render(request, "sets/labels.html", context)
