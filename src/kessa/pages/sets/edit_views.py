"""Adding and changing a set, and which tests it asks at a point."""

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from kessa.flows.choosing import tests_to_choose
from kessa.library.requests import wanted_versions
from kessa.library.test_choices import with_leading
from kessa.pages.sets.forms import SetForm
from kessa.places.models import Point
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data
from kessa.visits import sets as services
from kessa.visits.models import Sample, TestAsked, TestSet


@needs(Permission.MANAGE)
def new_set(request: ProgrammeRequest) -> HttpResponse:
    """A new set; ?visit= takes points and tests of a visit."""
    points, ticked = _of_visit(request)
    form = SetForm(form_data(request), request.programme, None, points)
    versions = wanted_versions(request) if request.method == "POST" else []
    if request.method == "POST" and form.is_valid() and versions:
        ids = [one.method_id for one in versions]
        asked = [{"point": point, "methods": ids} for point in form.point_ids()]
        made = services.make_set(request.programme, request.user, asked=asked, **form.described())
        return redirect("set", request.programme.slug, made.pk)
    if request.method == "POST":
        ticked = request.POST.getlist("method")
    groups = tests_to_choose(request.programme, request.user)
    nothing = request.method == "POST" and not versions
    context = {
        "form": form,
        "groups": with_leading("Chosen", ticked, groups),
        "ticked": ticked,
        "nothing_chosen": nothing,
    }
    status = 422 if form.errors or nothing else 200
    return render(request, "sets/new_set.html", context, status=status)


def _of_visit(request: ProgrammeRequest) -> tuple[list[int], list[str]]:
    """Points and tests of the visit that the address names."""
    wanted = request.GET.get("visit", "")
    if not wanted.isdecimal() or len(wanted) > 18:
        return [], []
    samples = list(Sample.objects.of(request.programme).filter(visit=int(wanted)))
    tests = TestAsked.objects.of(request.programme).filter(sample__in=samples)
    asked = tests.exclude(state=TestAsked.State.CANCELLED)
    methods = list(dict.fromkeys(asked.values_list("method_id", flat=True)))
    return list(dict.fromkeys(sample.point_id for sample in samples)), methods


@needs(Permission.MANAGE)
def change_set(request: ProgrammeRequest, set_id: int) -> HttpResponse:
    """Edit a set; a point that is added gets the tests of the first one."""
    found = get_object_or_404(TestSet.objects.of(request.programme), pk=set_id)
    form = SetForm(form_data(request), request.programme, found)
    if request.method == "POST" and form.is_valid():
        first = found.asked[0]["methods"] if found.asked else []
        asked = [
            {"point": one, "methods": found.methods_at(one) or first} for one in form.point_ids()
        ]
        described = form.described() | {"asked": asked, "in_use": "stop" not in request.POST}
        services.change_set(found, request.user, **described)
        return redirect("set", request.programme.slug, found.pk)
    context = {"form": form, "set": found}
    return render(request, "sets/change_set.html", context, status=422 if form.errors else 200)


@needs(Permission.MANAGE)
def tests_at(request: ProgrammeRequest, set_id: int, point_id: int) -> HttpResponse:
    """Which tests a set asks at one of its points."""
    found = get_object_or_404(TestSet.objects.of(request.programme), pk=set_id)
    point = get_object_or_404(Point.objects.of(request.programme), pk=point_id)
    if point.pk not in found.point_ids:
        raise Http404
    if request.method == "POST" and (versions := wanted_versions(request)):
        ids = [one.method_id for one in versions]
        asked = [one | {"methods": ids} if one["point"] == point.pk else one for one in found.asked]
        services.change_set(found, request.user, asked=asked)
        return redirect("set", request.programme.slug, found.pk)
    ticked = found.methods_at(point.pk)
    context = {
        "set": found,
        "point": point,
        "groups": with_leading("Chosen", ticked, tests_to_choose(request.programme, request.user)),
        "ticked": ticked,
        "nothing_chosen": request.method == "POST",
    }
    status = 422 if request.method == "POST" else 200
    return render(request, "sets/tests_at.html", context, status=status)
