"""Adding a point, with its water if that is new; editing a point or a water."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from kessa.places import services
from kessa.places.forms import DESCRIBED, OTHER, ChangePointForm, NewPointForm
from kessa.places.models import Point, Water
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data


@needs(Permission.MANAGE)
def new_point(request: ProgrammeRequest) -> HttpResponse:
    """A new point; ?water= names the water it lies at."""
    form = NewPointForm(form_data(request), request.programme, request.GET.get("water", ""))
    if request.method == "POST" and form.is_valid():
        said = form.cleaned_data
        water = _water(request, form)
        told = {name: said[name] for name in (*DESCRIBED, "dangers")}
        made = services.make_point(water, request.user, **told)
        return redirect("point", programme=request.programme.slug, point_id=made.pk)
    first = not Point.objects.of(request.programme).exists()
    context = {"form": form, "first": first, "other": OTHER}
    return render(request, "places/new_point.html", context, status=422 if form.errors else 200)


@needs(Permission.MANAGE)
def change_point(request: ProgrammeRequest, point_id: int) -> HttpResponse:
    """Edit a point."""
    point = get_object_or_404(Point.objects.of(request.programme), pk=point_id)
    form = ChangePointForm(form_data(request), point)
    if request.method == "POST" and form.is_valid():
        services.change_point(point, request.user, **form.cleaned_data)
        return redirect("point", programme=request.programme.slug, point_id=point.pk)
    context = {"form": form, "point": point}
    return render(request, "places/change_point.html", context, status=422 if form.errors else 200)


def _water(request: ProgrammeRequest, form: NewPointForm) -> Water:
    chosen = form.cleaned_data["water"]
    if chosen != OTHER:
        found: Water = Water.objects.of(request.programme).get(pk=int(chosen))
        return found
    limit_set = form.cleaned_data["limit_set"]
    return services.make_water(request.programme, request.user, limit_set, **form.described())
