"""The list of waters with their points, and the tests to choose from at a point."""

from django.core.paginator import Paginator
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from kessa.flows.choosing import tests_to_choose
from kessa.flows.jobs import how_far, waters_being_judged, waters_given_up
from kessa.library.favourites import set_favourite
from kessa.library.test_choices import Grouping
from kessa.pages.points.latest import (
    leading_of_each,
)
from kessa.pages.points.map import map_of
from kessa.places.models import Point, Water
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest

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
