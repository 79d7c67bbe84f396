"""Today: what changed, what waits, where to test."""

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone

from kessa.pages.today.news import overview
from kessa.places.models import Point
from kessa.platform.permissions import Permission, may, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.results.models import Result
from kessa.runs.models import Run
from kessa.ui.counts import capped_count
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
    context = {
        "now": timezone.localtime(),
        "news": found.news,
        "points": found.points,
        "more_points": len(points) > MOST_POINTS,
        "newest": found.newest,
        "returned": list(results.returned_to(request.user).for_links()[:LISTED]),
        "to_review": capped_count(results.for_review())
        if may(request.role, Permission.REVIEW)
        else "",
        "waiting": waiting,
        "on_the_way": [sample for sample in untaken if sample.outcome == "open"],
        "not_sampled": [sample for sample in untaken if sample.outcome == "not-taken"],
    }
    return render(request, "today/today.html", context)
