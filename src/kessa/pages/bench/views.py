"""The bench: unfinished runs, and the page that plays one."""

from collections.abc import Sequence
from dataclasses import replace
from uuid import UUID

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.cache import never_cache

from kessa.flows.choosing import tests_to_choose
from kessa.flows.reminders import remind
from kessa.pages.bench.opening import opening_of
from kessa.pages.bench.payload import chain_of, methods_of, payload
from kessa.platform.models import Membership
from kessa.platform.permissions import Permission, needs
from kessa.platform.release import release
from kessa.platform.requests import ProgrammeRequest
from kessa.runs.instruments import instrument_choices
from kessa.runs.lots import lot_choices
from kessa.runs.models import CANCELLED, Run
from kessa.runs.services import changed_since
from kessa.ui.gauges import bare_gauges
from kessa.ui.instruments import instruments_of
from kessa.ui.marks import shape_of
from kessa.ui.polling import code_of, has_seen, is_poll
from kessa.verdicts.point_context import context_of, known_of
from kessa.visits.models import Sample
from kessa_core.sheets.rows import gauge_maximums

KEYS = (
    ("Space", "add drop"),
    ("⌫", "undo"),
    ("E", "end count (colour stays)"),
    ("X", "end count (no change)"),
    ("N", "done, next"),
    ("O", "subtract 1 (too far)"),
    ("D", "in doubt"),
    ("C", "add check drop (not counted)"),
    ("1–5", "choose an answer"),
)


@needs(Permission.VIEW)
def index(request: ProgrammeRequest) -> HttpResponse:
    """Unfinished tests: one's own first, then those that others go on with."""
    unfinished = Run.objects.of(request.programme).unfinished()
    of_person = unfinished.kept_by(request.user)
    mine = list(of_person[:50])
    others = list(unfinished.exclude(pk__in=of_person.order_by().values("pk"))[:50])
    on_the_way = list(Sample.objects.of(request.programme).on_the_way())
    remind(request.programme, [*mine, *others])
    tests = [(run.pk, run.kept_by_id, run.reminded) for run in (*mine, *others)]
    code = code_of((tests, [(sample.pk, sample.next_step) for sample in on_the_way]))
    if has_seen(request, code):
        return HttpResponse(status=204)
    context = {
        "mine": mine,
        "others": others,
        "on_the_way": on_the_way,
        "members": Membership.objects.working_in(request.programme),
        "code": code,
    }
    template = "bench/news.html" if is_poll(request) else "bench/index.html"
    return render(request, template, context)


def _beside(run: Run, of_visit: Sequence[UUID]) -> str:
    """Where the bench of this test asks about the others of its visit; empty where it is alone."""
    if len(of_visit) == 1:
        return ""
    return reverse("beside-the-test", args=[run.programme.slug, run.sample.visit_id, run.pk])


def _entered(request: ProgrammeRequest, run: Run) -> HttpResponse:
    """A test that was typed in from paper has no bench: its result, or its visit."""
    result = run.results.order_by("pk").first()
    if result is None:
        return redirect("visit", request.programme.slug, run.sample.visit_id)
    return redirect("result", request.programme.slug, result.pk)


@never_cache
@needs(Permission.TEST)
def run(request: ProgrammeRequest, run_id: UUID) -> HttpResponse:
    """The bench page of one run and of those that go on from it."""
    found = get_object_or_404(Run.objects.of(request.programme), pk=run_id)
    if found.finish == CANCELLED:
        return redirect("point", request.programme.slug, found.sample.point_id)
    if found.events.filter(act="enter").exists():
        return _entered(request, found)
    lots = lot_choices(found)
    chain = chain_of(found)
    methods = methods_of(chain)
    quantities = tuple(q for method in methods.values() for q in method.quantities)
    setting = replace(
        context_of(found.sample, quantities, leave_out=found.pk),
        known=known_of(found.sample),
        waste=tuple(request.programme.waste.items()),
    )
    sheets = payload(chain, methods, setting)
    of_visit = Run.objects.of(request.programme).of_visit(found.sample.visit_id).numbers()
    context = {
        "opening": opening_of(sheets),
        "run": found,
        "sample": found.sample,
        "point": found.sample.point,
        "method": found.method,
        "instruments": instruments_of(methods.values()),
        "instrument_choices": instrument_choices(found),
        "lot_choices": lots,
        "lots_wrong": any(w.level == "now" for one in lots for w in one.warnings),
        "payload": sheets,
        "release": release(),
        "keys_here": KEYS,
        "beside": _beside(found, of_visit),
        "readers": Membership.objects.working_in(request.programme).exclude(person=request.user),
        "number": of_visit.index(found.pk),
        "shape": shape_of(of_visit.index(found.pk)),
        "changed": changed_since(found, request.user),
        "groups": tests_to_choose(request.programme, request.user),
        "gauges": bare_gauges(setting, gauge_maximums(setting)),
    }
    response = render(request, "bench/run.html", context)
    response["X-Kessa-Release"] = release()
    response["X-Kessa-Person"] = str(request.user.pk)
    response["X-Kessa-Run"] = "ended" if found.finish else "open"
    return response
