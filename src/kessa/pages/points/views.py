"""The list of waters with their points, and a point."""

from typing import Any

from django.core.paginator import Paginator
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from kessa.flows.choosing import tests_to_choose
from kessa.flows.jobs import how_far, waters_being_judged, waters_given_up
from kessa.library.favourites import set_favourite
from kessa.library.test_choices import Grouping
from kessa.pages.points.changes import before_and_after
from kessa.pages.points.chart_frame import FRAMES
from kessa.pages.points.events import events_of
from kessa.pages.points.latest import (
    Line,
    chart_of,
    charts_apart,
    leading_of_each,
    lines_at,
    news_sentence,
    trend_sentence,
)
from kessa.pages.points.map import map_of
from kessa.pages.points.spark import spark
from kessa.places.limit_sets import find_set
from kessa.places.models import LimitAttachment, Point, Water
from kessa.places.services import attach_limits, own_limits
from kessa.platform import clock
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.results.history import history_of, newest_numbers
from kessa.visits.models import Sample, TestSet, WaterEvent
from kessa.visits.sets import today_of
from kessa_core.judging import LimitSet

PAGE = 100


@needs(Permission.VIEW)
def index(request: ProgrammeRequest) -> HttpResponse:
    """Every water with its points."""
    points = Paginator(Point.objects.of(request.programme).for_lists(), PAGE)
    page = points.get_page(request.GET.get("page"))
    rows = leading_of_each(request.programme, list(page))
    context = {
        "points": rows,
        "map": map_of(rows),
        "page": page,
        "being_judged": waters_being_judged(request.programme),
    }
    template = "points/list.html" if request.htmx.target == "points" else "points/index.html"
    return render(request, template, context)


@needs(Permission.VIEW)
def judging(request: ProgrammeRequest, water_id: int) -> HttpResponse:
    """How far the judging of a water's results has come, which its list asks until it is done."""
    get_object_or_404(Water.objects.of(request.programme), pk=water_id)
    context = {
        "water_id": water_id,
        "under_way": water_id in waters_being_judged(request.programme),
        "given_up": water_id in waters_given_up(request.programme),
        "progress": how_far(water_id),
    }
    return render(request, "points/judging.html", context)


@needs(Permission.VIEW)
def point(request: ProgrammeRequest, point_id: int) -> HttpResponse:
    """A point: its news, its history, its results, how to find it, and a test in two taps."""
    found = get_object_or_404(Point.objects.of(request.programme), pk=point_id)
    both = [found, found.pair] if found.pair else [found]
    lines = lines_at(request.programme, both)
    own = [line for line in lines if line.point.pk == found.pk]
    pairs = {line.latest.parameter: line for line in lines if line.point.pk != found.pk}
    lead = _shown(request.GET.get("show", ""), own)
    pair = pairs.get(lead.latest.parameter) if lead else None
    context: dict[str, Any] = {"point": found, "lines": own, "lead": lead}
    if lead:
        events = events_of(lead.latest)
        wanted, days = request.GET.get("event", ""), request.GET.get("days", "")
        apart = bool(request.GET.get("apart")) and pair is not None
        past = history_of(lead.latest)
        draw = charts_apart if apart else chart_of
        context |= {
            "news": news_sentence(lead, pair),
            "charts": draw(lead, past, pair, FRAMES, events),
            "trend": trend_sentence(lead, past),
            "past": past,
            "apart": apart,
            "compared": before_and_after(lead, pair, events, wanted, days),
            "pair_line": pair,
        }
    if request.htmx.target == "chart-table":
        return render(request, "points/past_rows.html", context)
    if request.htmx.target == "quantity":
        return render(request, "points/quantity.html", context)
    return render(request, "points/point.html", context | _about(found, own))


def _about(point: Point, lines: list[Line]) -> dict[str, Any]:
    """What stands beside and under the chart of a point."""
    samples = Sample.objects.of(point.programme_id).filter(point=point)
    past = samples.exclude(outcome=Sample.Outcome.OPEN).select_related(None)
    numbers = newest_numbers(point.programme_id, [line.latest for line in lines]) if lines else {}
    sets = TestSet.objects.of(point.programme_id).in_use()
    here = [one for one in sets if point.pk in one.point_ids]
    happened = WaterEvent.objects.of(point.programme_id).standing().at(point)
    return {
        "samples": list(past.order_by("-taken_at")[:7]),
        "sparks": [(line, spark(numbers.get(line.latest.pk, []))) for line in lines],
        "due": today_of(here, timezone.localdate()),
        "happened": list(happened[:5]),
        "own_limits": own_set(point),
    }


def own_set(point: Point) -> LimitSet | None:
    """The limit set that applies at this point alone today; None: that of its water."""
    key = own_limits(point, clock.now())
    return find_set(point.programme_id, key) if key else None


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


@needs(Permission.TEST)
def test_menu(request: ProgrammeRequest, point_id: int) -> HttpResponse:
    """The tests to choose from at a point, which its menu fetches when it is opened."""
    return _tests(request, get_object_or_404(Point.objects.of(request.programme), pk=point_id))


@require_POST
@needs(Permission.TEST)
def favourite(request: ProgrammeRequest, point_id: int) -> HttpResponse:
    """Mark a test as a favourite, or no longer; back to the list."""
    point = get_object_or_404(Point.objects.of(request.programme), pk=point_id)
    wanted = request.POST.get("method", "").replace("\x00", "")
    marked = request.POST.get("marked") == "yes"
    if not set_favourite(request.programme, request.user, wanted, marked=marked):
        raise Http404
    if request.htmx:
        return _tests(request, point)
    return redirect("test-menu", request.programme.slug, point.pk)


def _tests(request: ProgrammeRequest, point: Point) -> HttpResponse:
    wanted = request.GET.get("by", "")
    by = Grouping(wanted) if wanted in list(Grouping) else Grouping.PARAMETER
    context = {
        "point": point,
        "groups": tests_to_choose(request.programme, request.user, by),
        "by": by,
        "groupings": list(Grouping),
    }
    template = "visit/tests.html" if request.htmx else "visit/choose_test.html"
    return render(request, template, context)
