"""Today: what changed, what waits, where to test."""

from datetime import date, timedelta
from typing import Any

from django.db.models import QuerySet
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone

from kessa.flows.reminders import remind
from kessa.library.stock import running_out
from kessa.pages.today.news import overview
from kessa.places.models import Point
from kessa.platform.permissions import Permission, may, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.results.models import Result
from kessa.runs.models import PhotoReading, Run
from kessa.ui.counts import capped_counts
from kessa.ui.polling import code_of, has_seen, is_poll
from kessa.visits.models import Sample, TestSet
from kessa.visits.sets import SetToday, today_of

LISTED = 6
SOON_DAYS = 7
"""Sets that fall due within so many days are listed."""
MOST_POINTS = 6


@needs(Permission.VIEW)
def today(request: ProgrammeRequest) -> HttpResponse:
    """What changed, what waits, where to test."""
    results = Result.objects.of(request.programme)
    samples = Sample.objects.of(request.programme)
    unfinished = Run.objects.of(request.programme).unfinished().for_today()
    waiting = list(unfinished.kept_by(request.user)[:LISTED])
    untaken = list(samples.on_the_way_or_not_taken().for_today()[: 2 * LISTED])
    listed = [*untaken, *(run.sample for run in waiting)]
    found = overview(request.programme, MOST_POINTS)
    if not found.points and may(request.role, Permission.MANAGE):
        return redirect("new-point", programme=request.programme.slug)
    Point.objects.of(request.programme).give_to(listed, found.read)
    on_the_way = [sample for sample in untaken if sample.outcome == "open"]
    returned = list(results.returned_to(request.user).for_links()[:LISTED])
    remind(request.programme, waiting)
    work = _work(request)
    lines = [line for one in found.news for line in (one.line, *one.others)]
    shown = [*(line.result.current_id for line in lines), *found.newest]
    rows = [row.pk for row in (*untaken, *waiting, *returned)]
    day = timezone.localdate()
    due = _due(request, day)
    code = code_of(
        (
            shown,
            [(one.set.pk, one.standing) for one in due],
            rows,
            [one.reminded for one in waiting],
            [one.next_step for one in on_the_way],
            work,
        )
    )
    if has_seen(request, code):
        return HttpResponse(status=204)
    context = {
        "code": code,
        "now": timezone.localtime(),
        "due": due,
        "today": day,
        "news": found.news,
        "points": found.points,
        "more_points": found.more,
        "newest": found.newest,
        "returned": returned,
        "work": work,
        "waiting": waiting,
        "on_the_way": on_the_way,
        "not_sampled": [sample for sample in untaken if sample.outcome == "not-taken"],
    }
    template = "today/news.html" if is_poll(request) else "today/today.html"
    return render(request, template, context)


@needs(Permission.VIEW)
def stock(request: ProgrammeRequest) -> HttpResponse:
    """What expires, is used up or due, which Today fetches once; it seldom changes."""
    found = running_out(request.programme)
    context = {"runs_out": found[:LISTED], "more_runs_out": len(found) > LISTED}
    return render(request, "today/stock.html", context)


def _work(request: ProgrammeRequest) -> dict[str, str]:
    """How much waits to be reviewed and to be read, for who may do it."""
    kinds: dict[str, QuerySet[Any]] = {}
    if may(request.role, Permission.REVIEW):
        kinds["to_review"] = Result.objects.of(request.programme).for_review()
    if may(request.role, Permission.TEST):
        photographs = PhotoReading.objects.of(request.programme)
        kinds["to_read"] = photographs.waiting_for(request.user)
    return capped_counts(request.programme, **kinds)


def _due(request: ProgrammeRequest, today: date) -> list[SetToday]:
    """The sets that are due today or before, and those of the coming days."""
    every = TestSet.objects.of(request.programme).in_use().for_lists()
    sets = today_of(every, today)
    soon = today + timedelta(days=SOON_DAYS)
    return [
        one
        for one in sets
        if one.due or (one.standing.following and one.standing.following <= soon)
    ][:LISTED]
