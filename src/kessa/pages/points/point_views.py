"""A point: its news, its history, its results, how to find it."""

from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from kessa.pages.points.changes import before_and_after
from kessa.pages.points.chart_frame import FRAMES
from kessa.pages.points.events import events_of
from kessa.pages.points.latest import (
    Line,
    chart_apart,
    chart_of,
    lines_at,
    news_sentence,
    trend_sentence,
)
from kessa.pages.points.spark import spark
from kessa.places.limit_sets import find_set
from kessa.places.models import LimitAttachment, Point
from kessa.places.services import attach_limits, with_own_limits
from kessa.platform import clock
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.results.history import history_of, newest_numbers
from kessa.visits.models import Sample, TestSet, WaterEvent
from kessa.visits.sets import today_of

MOST_NOTED = 300
"""Of what was written down of a water, the newest that its points' charts can show."""


@needs(Permission.VIEW)
def point(request: ProgrammeRequest, point_id: int) -> HttpResponse:
    """A point: its news, its history, its results, how to find it, and a test in two taps."""
    points = with_own_limits(Point.objects.of(request.programme), clock.now())
    found = get_object_or_404(points, pk=point_id)
    both = [found, found.pair] if found.pair else [found]
    lines = lines_at(request.programme, both)
    own = [line for line in lines if line.point.pk == found.pk]
    pairs = {line.latest.parameter: line for line in lines if line.point.pk != found.pk}
    lead = _shown(request.GET.get("show", ""), own)
    if lead and request.htmx.target == "chart-table":
        decimals = lead.value.decimals
        rows = [
            (one, one.text(decimals), one.range_text(decimals))
            for one in reversed(history_of(lead.latest))
        ]
        return render(request, "points/past_rows.html", {"lead": lead, "rows": rows})
    noted = WaterEvent.objects.of(request.programme).standing().at(found)
    happened = list(noted[:MOST_NOTED])
    pair = pairs.get(lead.latest.parameter) if lead else None
    context: dict[str, Any] = {"point": found, "lines": own, "lead": lead, "happened": happened}
    if lead:
        events = events_of(lead.latest, happened)
        wanted, days = request.GET.get("event", ""), request.GET.get("days", "")
        apart = bool(request.GET.get("apart")) and pair is not None
        past = history_of(lead.latest)
        draw = chart_apart if apart else chart_of
        size = "phone" if request.htmx.target == "phone-chart" else "wide"
        context |= {
            "news": news_sentence(lead, pair),
            "chart": draw(lead, past, pair, FRAMES[size], events),
            "trend": trend_sentence(lead, past),
            "past": past,
            "apart": apart,
            "compared": before_and_after(lead, pair, events, wanted, days),
            "pair_line": pair,
        }
    if request.htmx.target == "phone-chart":
        return render(request, "points/phone_chart.html", context)
    if request.htmx.target == "quantity":
        return render(request, "points/quantity.html", context)
    return render(request, "points/point.html", context | _about(found, own))


def _about(point: Point, lines: list[Line]) -> dict[str, Any]:
    """What stands beside and under the chart of a point."""
    samples = Sample.objects.of(point.programme_id).filter(point=point)
    past = samples.exclude(outcome=Sample.Outcome.OPEN).for_visits()
    numbers = newest_numbers(point.programme_id, [line.latest for line in lines]) if lines else {}
    here = TestSet.objects.of(point.programme_id).in_use().at(point).for_lists()
    key = point.own_limits
    return {
        "samples": list(past.order_by("-taken_at")[:7]),
        "sparks": [(line, spark(numbers.get(line.latest.pk, []))) for line in lines],
        "due": today_of(here, timezone.localdate()),
        "own_limits": find_set(point.programme_id, key) if key else None,
    }


@require_POST
@needs(Permission.MANAGE)
def limits_of_its_water(request: ProgrammeRequest, point_id: int) -> HttpResponse:
    """From now on the point has the limits of its water again."""
    found = get_object_or_404(Point.objects.of(request.programme), pk=point_id)
    attach_limits(found.water, request.user, LimitAttachment.OF_ITS_WATER, point=found)
    return redirect("point", programme=request.programme.slug, point_id=found.pk)


def _shown(wanted: str, lines: list[Line]) -> Line | None:
    """The line whose chart is shown: the one that was asked for, else what is most news, else what
    was measured most often."""
    chosen = next((line for line in lines if str(line.result.pk) == wanted), None)
    return chosen or min(lines, key=lambda one: one.weight, default=None)
