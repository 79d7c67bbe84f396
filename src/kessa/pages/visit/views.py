"""From a point to a sample: go or no-go, context, sample."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from kessa.flows.choosing import tests_to_choose
from kessa.flows.testing import take_and_open
from kessa.library.models import MethodVersion
from kessa.library.requests import wanted_version
from kessa.pages.visit.forms import ContextForm, NotSampledForm, TakeForm
from kessa.places.models import Point
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data
from kessa.visits import services
from kessa.visits.dangers import dangers_at
from kessa.visits.models import Sample, TestAsked
from kessa.visits.projection import CONDITIONS
from kessa.visits.wording import wording_of


def _open_sample(request: ProgrammeRequest, sample_id: int) -> Sample:
    samples = Sample.objects.of(request.programme).filter(outcome=Sample.Outcome.OPEN)
    found: Sample = get_object_or_404(samples, pk=sample_id)
    return found


def _asked(sample: Sample) -> list[str]:
    """The methods of the tests that are asked of a sample."""
    tests = TestAsked.objects.of(sample.programme_id).filter(sample=sample)
    return list(tests.exclude(state=TestAsked.State.CANCELLED).values_list("method_id", flat=True))


def _back(request: ProgrammeRequest, sample: Sample) -> HttpResponse:
    """To the visit where it has other samples, else to the point."""
    if sample.has_others:
        return redirect("visit", request.programme.slug, sample.visit_id)
    return redirect("point", programme=request.programme.slug, point_id=sample.point_id)


def _last_noted(sample: Sample) -> dict[str, object]:
    """What was noted at this point the last time a sample was taken."""
    taken = Sample.objects.of(sample.programme_id).filter(point=sample.point_id)
    last = taken.filter(outcome=Sample.Outcome.TAKEN).order_by("-taken_at").first()
    return dict(last.noted) if last else {}


def _of_this_visit(sample: Sample) -> dict[str, object]:
    """The weather that was noted at another point of the same visit; it is asked once."""
    others = Sample.objects.of(sample.programme_id).filter(visit=sample.visit_id)
    noted = others.exclude(context_at=None).order_by("-context_at").first()
    if noted is None:
        return {}
    weather = {name: getattr(noted, name) for name in ("weather_now", "weather_before", "air_c")}
    return weather | {"event": noted.noted.get("event", "")}


def _go(request: ProgrammeRequest, name: str, sample: Sample) -> HttpResponse:
    return redirect(name, programme=request.programme.slug, sample_id=sample.pk)


def _page(request: ProgrammeRequest, template: str, sample: Sample, **more: object) -> HttpResponse:
    newest = MethodVersion.objects.of(request.programme).newest()
    version = get_object_or_404(newest, method_id=sample.method_id)
    asked = _asked(sample)
    methods = [one.method for one in newest.filter(method_id__in=asked)]
    what = methods[0].short if len(methods) == 1 else f"{len(methods)} tests"
    status = 422 if getattr(more.get("form"), "errors", None) else 200
    context = {
        "sample": sample,
        "point": sample.point,
        "method": version.method,
        "methods": sorted(methods, key=lambda one: asked.index(one.id)),
        "gear": list(dict.fromkeys(piece for one in methods for piece in one.gear)),
        "what": what,
        "wording": wording_of(sample.point.water.kind),
        "dangers": dangers_at(sample.point.water.kind),
        "groups": tests_to_choose(request.programme, request.user),
        **more,
    }
    return render(request, template, context, status=status)


@require_POST
@needs(Permission.TEST)
def begin(request: ProgrammeRequest, point_id: int) -> HttpResponse:
    """Begin a single test at a point."""
    point = get_object_or_404(Point.objects.of(request.programme), pk=point_id)
    version = wanted_version(request)
    sample = services.begin(request.programme, request.user, point, version.method_id)
    return _go(request, "safety", sample)


@require_POST
@needs(Permission.TEST)
def change_test(request: ProgrammeRequest, sample_id: int) -> HttpResponse:
    """Another test at the same point; what was noted so far stays."""
    sample = _open_sample(request, sample_id)
    version = wanted_version(request)
    services.change_test(sample, request.user, version.method_id)
    return _go(request, sample.next_step, sample)


@require_POST
@needs(Permission.TEST)
def cancel(request: ProgrammeRequest, sample_id: int) -> HttpResponse:
    """The test was begun by mistake."""
    sample = _open_sample(request, sample_id)
    services.cancel(sample, request.user)
    return _back(request, sample)


@needs(Permission.TEST)
def safety(request: ProgrammeRequest, sample_id: int) -> HttpResponse:
    """Go, or not sampled and why."""
    sample = _open_sample(request, sample_id)
    if request.method == "POST" and request.POST.get("go") == "yes":
        services.decide_to_go(sample, request.user)
        return _go(request, "context", sample)
    form = NotSampledForm(form_data(request), sample.point.water.kind)
    if request.method == "POST" and form.is_valid():
        services.do_not_sample(sample, request.user, form.cleaned_data["said"])
        return _back(request, sample)
    return _page(request, "visit/safety.html", sample, form=form)


@needs(Permission.TEST)
def context(request: ProgrammeRequest, sample_id: int) -> HttpResponse:
    """The context, before touching the water."""
    sample = _open_sample(request, sample_id)
    kind = sample.point.water.kind
    form = ContextForm(
        form_data(request), kind, _last_noted(sample), wording_of(kind),
        initial=_of_this_visit(sample),
    )  # fmt: skip
    if request.method == "POST" and form.is_valid():
        said = {name: form.cleaned_data[name] for name in CONDITIONS if name in form.cleaned_data}
        services.note_context(sample, request.user, said | {"noted": form.noted()})
        return _go(request, "take-sample", sample)
    return _page(request, "visit/context.html", sample, form=form)


@needs(Permission.TEST)
def take(request: ProgrammeRequest, sample_id: int) -> HttpResponse:
    """Take the sample; then the bench."""
    sample = _open_sample(request, sample_id)
    now = timezone.localtime()
    kind = sample.point.water.kind
    form = TakeForm(form_data(request), kind, _last_noted(sample), initial={"at": now})
    if request.method == "POST" and form.is_valid():
        said, zone = form.cleaned_data, request.programme.timezone
        noted = (said["depth_cm"], said["water_c"], form.noted())
        run = take_and_open(sample, request.user, said["at"], zone, *noted)
        if len(_asked(sample)) > 1 or sample.has_others:
            return redirect("visit", request.programme.slug, sample.visit_id)
        return redirect(reverse("bench", args=[request.programme.slug, run.pk]))
    return _page(request, "visit/take.html", sample, form=form)
