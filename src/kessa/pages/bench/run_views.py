"""What can be done about an unfinished test beside carrying it out."""

from contextlib import suppress
from typing import Any
from urllib.parse import urlencode
from uuid import UUID

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from kessa.flows.desk import end_unfinished
from kessa.library.models import Instrument
from kessa.library.requests import wanted_version
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Membership
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.runs import services
from kessa.runs.instruments import choose_instrument
from kessa.runs.lots import choose_lot, find_lot
from kessa.runs.models import Run
from kessa.ui.row_number import row_number


def _unfinished(request: ProgrammeRequest, run_id: UUID) -> Run:
    found: Run = get_object_or_404(Run.objects.of(request.programme).unfinished(), pk=run_id)
    return found


@require_POST
@needs(Permission.TEST)
def cancel(request: ProgrammeRequest, run_id: UUID) -> HttpResponse:
    """The wrong test was opened; a test in which something was done stays."""
    run = _unfinished(request, run_id)
    if not services.cancel(run, request.user):
        return redirect("bench", request.programme.slug, run.pk)
    return redirect("point", request.programme.slug, run.sample.point_id)


@require_POST
@needs(Permission.TEST)
def change(request: ProgrammeRequest, run_id: UUID) -> HttpResponse:
    """Another test of the same sample; a test in which something was done stays."""
    run = _unfinished(request, run_id)
    changed = services.change(run, request.user, wanted_version(request))
    return redirect("bench", request.programme.slug, (changed or run).pk)


@require_POST
@needs(Permission.TEST)
def end(request: ProgrammeRequest, run_id: UUID) -> HttpResponse:
    """End an unfinished test from the list: cancelled where nothing was done, else not tested."""
    run = _unfinished(request, run_id)
    if not services.cancel(run, request.user):
        end_unfinished(run, request.user, request.POST.get("why", ""))
    return redirect("bench-list", request.programme.slug)


@require_POST
@needs(Permission.TEST)
def instrument(request: ProgrammeRequest, run_id: UUID) -> HttpResponse:
    """Another instrument of the same kind; an ended test keeps its own."""
    run = _unfinished(request, run_id)
    wanted = row_number(request.POST.get("instrument", ""))
    found = get_object_or_404(Instrument.objects.of(request.programme), pk=wanted, in_use=True)
    with suppress(ActionNotAllowed):
        choose_instrument(run, request.user, request.POST.get("kind", ""), found)
    return redirect("bench", request.programme.slug, run.pk)


@require_POST
@needs(Permission.TEST)
def lot(request: ProgrammeRequest, run_id: UUID) -> HttpResponse:
    """Another lot of a reagent, by the number on its pack; one that is not recorded yet is asked
    for."""
    run = _unfinished(request, run_id)
    reagent, number = request.POST.get("reagent", ""), request.POST.get("number", "").strip()
    found = find_lot(run, reagent, number)
    if found is None:
        context: dict[str, Any] = {"run": run, "reagent": reagent, "number": number[:40]}
        context["asked"] = urlencode({"run": run.pk, "reagent": reagent, "number": number[:40]})
        return render(request, "bench/no_such_lot.html", context, status=422)
    with suppress(ActionNotAllowed):
        choose_lot(run, request.user, found)
    return redirect("bench", request.programme.slug, run.pk)


@require_POST
@needs(Permission.TEST)
def hand_over(request: ProgrammeRequest, run_id: UUID) -> HttpResponse:
    """Somebody else of the programme continues with it."""
    run = _unfinished(request, run_id)
    members = Membership.objects.working_in(request.programme)
    member = get_object_or_404(members, pk=row_number(request.POST.get("to", "")))
    services.hand_over(run, request.user, member.person)
    return redirect("bench-list", request.programme.slug)
