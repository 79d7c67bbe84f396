"""A page for each parameter: what it means, what is usual, what it does, what can see it."""

from dataclasses import dataclass

from django.http import Http404, HttpResponse
from django.shortcuts import render

from kessa.library.facts import facts_in_use, facts_of_shipped
from kessa.library.services import shipped_beside
from kessa.pages.points.latest import Line, newest_lines
from kessa.platform.models import Programme
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.results.models import LatestResult
from kessa_core.errors import UnknownName
from kessa_core.guidance import guidance_on, guided
from kessa_core.judging import Limit, LimitSet, limit_sets
from kessa_core.quantities import parameter as find_parameter
from kessa_core.quantities import parameters

MOST_POINTS = 40


@dataclass(frozen=True)
class Seen:
    """A method that measures a parameter. number: of the version in use, empty where it is not
    used here yet; reach: from where to where it measures."""

    method_id: str
    title: str
    number: str
    reach: str
    duration: str


@needs(Permission.VIEW)
def index(request: ProgrammeRequest) -> HttpResponse:
    """Every parameter by name, those with a page of their own first of all."""
    told = guided()
    listed = sorted(parameters().values(), key=lambda one: one.name.lower())
    context = {"listed": [(one, told.get(one.key)) for one in listed]}
    return render(request, "parameters/index.html", context)


@needs(Permission.VIEW)
def parameter(request: ProgrammeRequest, key: str) -> HttpResponse:
    """One parameter."""
    try:
        found = find_parameter(key)
    except UnknownName:
        raise Http404(f"There is no parameter {key}.") from None
    guidance = guidance_on(key)
    context = {
        "parameter": found,
        "guidance": guidance,
        "along": [find_parameter(one) for one in guidance.along] if guidance else [],
        "limits": limits_on(key),
        "methods": methods_of(request.programme, key),
        "lines": lines_of(request.programme, key),
    }
    return render(request, "parameters/parameter.html", context)


def limits_on(key: str) -> list[tuple[LimitSet, Limit]]:
    """The shipped limits of a parameter, by the title of their set."""
    held = sorted(limit_sets().values(), key=lambda one: one.title)
    return [(one, limit) for one in held for limit in one.limits if limit.parameter == key]


def methods_of(programme: Programme, key: str) -> list[Seen]:
    """The methods that measure a parameter, those in use first."""
    known = [(facts, str(version.number)) for version, facts in facts_in_use(programme)]
    beside = shipped_beside({facts.id for facts, _ in known})
    known += [(facts_of_shipped(one.id), "") for one in beside]
    return [
        Seen(facts.id, facts.title, number, stage.reach, facts.duration)
        for facts, number in known
        for stage in facts.stages
        if stage.parameter == key
    ]


def lines_of(programme: Programme, key: str) -> list[Line]:
    """The newest result of each point where it is measured."""
    latest = LatestResult.objects.of(programme).filter(parameter=key)
    numbers = latest.order_by("-sampled_at").values_list("pk", flat=True)[:MOST_POINTS]
    found = newest_lines(programme, list(numbers), []).values()
    return sorted(found, key=lambda line: (line.point.water_id, line.point.order, line.name))
