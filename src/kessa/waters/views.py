"""Today, the list of waters, and a point."""

from datetime import timedelta

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone

from kessa.bench.models import Run
from kessa.bench.services import methods_at_hand
from kessa.library.services import on_the_shelf
from kessa.log.models import Result
from kessa.permissions import Permission, may, needs
from kessa.visits.models import Sample
from kessa.waters import pages
from kessa.waters.chart import FRAMES
from kessa.waters.models import Point


@needs(Permission.VIEW)
def today(request: HttpRequest) -> HttpResponse:
    """What changed, what waits, where to test."""
    points = list(Point.objects.of(request.programme))
    if not points and may(request.role, Permission.MANAGE):
        return redirect("new-point", programme=request.programme.slug)
    lines = pages.lines_of(request.programme, points)
    since = timezone.now() - timedelta(days=30)
    context = {
        "now": timezone.localtime(),
        "lines": lines,
        "news": [line for line in lines if line.is_news],
        "points": _with_last(points, lines),
        "versions": methods_at_hand(request.programme),
        "shelf": on_the_shelf(request.programme),
        "returned": list(
            Result.objects.of(request.programme).returned_to(request.user).with_evidence()[:6]
        ),
        "to_review": Result.objects.of(request.programme).for_review().count()
        if may(request.role, Permission.REVIEW)
        else 0,
        "waiting": list(Run.objects.of(request.programme).unfinished().kept_by(request.user)[:6]),
        "on_the_way": list(Sample.objects.of(request.programme).on_the_way()[:6]),
        "not_sampled": list(
            Sample.objects.of(request.programme).not_taken().filter(taken_at__gte=since)[:6]
        ),
    }
    return render(request, "waters/today.html", context)


@needs(Permission.VIEW)
def index(request: HttpRequest) -> HttpResponse:
    """Every water with its points."""
    points = list(Point.objects.of(request.programme))
    lines = pages.lines_of(request.programme, points)
    return render(request, "waters/index.html", {"points": _with_last(points, lines)})


@needs(Permission.VIEW)
def point(request: HttpRequest, point_id: int) -> HttpResponse:
    """A point: its news, its history, its results, how to find it, and a test in two taps."""
    found = get_object_or_404(Point.objects.of(request.programme), pk=point_id)
    both = [found, found.pair] if found.pair else [found]
    lines = pages.lines_of(request.programme, both)
    own = [line for line in lines if line.point.pk == found.pk]
    pairs = {line.result.parameter: line for line in lines if line.point.pk != found.pk}
    lead = max(own, key=lambda line: (line.is_news, len(line.history)), default=None)
    pair = pairs.get(lead.result.parameter) if lead else None
    context = {
        "point": found,
        "lines": own,
        "lead": lead,
        "news": pages.news_sentence(lead, pair) if lead else "",
        "charts": [(name, pages.chart_of(lead, pair, frame)) for name, frame in FRAMES.items()]
        if lead
        else [],
        "versions": methods_at_hand(request.programme),
        "shelf": on_the_shelf(request.programme),
        "samples": list(
            Sample.objects.of(request.programme)
            .filter(point=found)
            .exclude(outcome=Sample.Outcome.OPEN)
            .order_by("-taken_at")[:7]
        ),
    }
    return render(request, "waters/point.html", context)


def _with_last(
    points: list[Point], lines: list[pages.Line]
) -> list[tuple[Point, pages.Line | None]]:
    newest = {}
    for line in lines:
        newest.setdefault(line.point.pk, line)
    return [(point, newest.get(point.pk)) for point in points]
