"""Today: what changed, what waits, where to test."""

from datetime import date, timedelta

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
from kessa.ui.counts import capped_count
from kessa.ui.polling import code_of, has_seen, is_poll
from kessa.visits.models import Sample, TestSet
from kessa.visits.sets import SetToday, today_of

LISTED = 6
SOON_DAYS = 7
"""Sets that fall due within so many days are listed."""
MOST_POINTS = 8
READ_AT_ONCE = 60
"""Points that the newest results may be of, read in one query with those that are listed."""


@needs(Permission.VIEW)
def today(request: ProgrammeRequest) -> HttpResponse:
    """What changed, what waits, where to test."""
    points = list(Point.objects.of(request.programme).for_lists()[:READ_AT_ONCE])
    if not points and may(request.role, Permission.MANAGE):
        return redirect("new-point", programme=request.programme.slug)
    found = overview(request.programme, points, MOST_POINTS)
    results = Result.objects.of(request.programme)
    samples = Sample.objects.of(request.programme)
    unfinished = Run.objects.of(request.programme).unfinished().for_today()
    waiting = list(unfinished.kept_by(request.user)[:LISTED])
    untaken = list(samples.on_the_way_or_not_taken().for_today()[: 2 * LISTED])
    listed = [*untaken, *(run.sample for run in waiting)]
    Point.objects.of(request.programme).give_to(listed, points)
    on_the_way = [sample for sample in untaken if sample.outcome == "open"]
    returned = list(results.returned_to(request.user).for_links()[:LISTED])
    remind(request.programme, waiting)
    to_review = capped_count(results.for_review()) if may(request.role, Permission.REVIEW) else ""
    lines = [line for one in found.news for line in (one.line, *one.others)]
    shown = [*(line.result.current_id for line in lines), *found.newest]
    rows = [row.pk for row in (*untaken, *waiting, *returned)]
    to_read = capped_count(PhotoReading.objects.of(request.programme).waiting_for(request.user))
    runs_out = running_out(request.programme)
    day = timezone.localdate()
    due = _due(request, day)
    code = code_of(
        (
            shown,
            [one.words for one in runs_out],
            [(one.set.pk, one.standing) for one in due],
            rows,
            [one.reminded for one in waiting],
            [one.next_step for one in on_the_way],
            to_review,
            to_read,
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
        "more_points": len(points) > MOST_POINTS,
        "newest": found.newest,
        "returned": returned,
        "to_review": to_review,
        "to_read": to_read if may(request.role, Permission.TEST) else "",
        "waiting": waiting,
        "runs_out": runs_out[:LISTED],
        "more_runs_out": len(runs_out) > LISTED,
        "on_the_way": on_the_way,
        "not_sampled": [sample for sample in untaken if sample.outcome == "not-taken"],
    }
    template = "today/news.html" if is_poll(request) else "today/today.html"
    return render(request, template, context)


def _due(request: ProgrammeRequest, today: date) -> list[SetToday]:
    """The sets that are due today or before, and those of the coming days."""
    sets = today_of(TestSet.objects.of(request.programme).in_use(), today)
    soon = today + timedelta(days=SOON_DAYS)
    return [
        one
        for one in sets
        if one.due or (one.standing.following and one.standing.following <= soon)
    ][:LISTED]
