"""Today: what changed, what waits, where to test."""

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
from kessa.runs.models import Run
from kessa.ui.counts import capped_count
from kessa.ui.polling import code_of, has_seen, is_poll
from kessa.visits.models import Sample

LISTED = 6
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
    shown = [line.result.current_id for line in (*found.news, *found.newest)]
    rows = [row.pk for row in (*untaken, *waiting, *returned)]
    runs_out = running_out(request.programme)
    code = code_of(
        (
            shown,
            [one.words for one in runs_out],
            rows,
            [one.reminded for one in waiting],
            [one.next_step for one in on_the_way],
            to_review,
        )
    )
    if has_seen(request, code):
        return HttpResponse(status=204)
    context = {
        "code": code,
        "now": timezone.localtime(),
        "news": found.news,
        "points": found.points,
        "more_points": len(points) > MOST_POINTS,
        "newest": found.newest,
        "returned": returned,
        "to_review": to_review,
        "waiting": waiting,
        "runs_out": runs_out[:LISTED],
        "more_runs_out": len(runs_out) > LISTED,
        "on_the_way": on_the_way,
        "not_sampled": [sample for sample in untaken if sample.outcome == "not-taken"],
    }
    template = "today/news.html" if is_poll(request) else "today/today.html"
    return render(request, template, context)
