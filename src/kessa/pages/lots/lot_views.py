"""Adding a lot, correcting one, and measuring a standard with it."""

from datetime import date, datetime, time

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone

from kessa.flows.lot_preview import preview
from kessa.flows.lots import asks_before, correct_lot, measure_standard
from kessa.library.equipment import note_lot
from kessa.library.lot_forms import LotCorrectionForm, LotForm
from kessa.library.models import Instrument, Lot
from kessa.library.services import methods_at_hand
from kessa.library.stock import materials_in_use
from kessa.pages.lots.forms import StandardForm
from kessa.platform import clock
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.runs.lots import choose_lot
from kessa.runs.models import Run
from kessa.ui.form_data import form_data


def lot_of(request: ProgrammeRequest, lot_id: int) -> Lot:
    """The lot, with what tests took of it; 404 where the programme has none."""
    found: Lot = get_object_or_404(Lot.objects.of(request.programme).with_use(), pk=lot_id)
    return found


@needs(Permission.TEST)
def new_lot(request: ProgrammeRequest) -> HttpResponse:
    """Add a lot; one that was asked for at the bench is used there at once."""
    given = {name: request.GET.get(name, "") for name in ("reagent", "number")}
    form = LotForm(form_data(request), materials_in_use(request.programme), given)
    run = _run(request)
    if request.method == "POST" and form.is_valid():
        made = note_lot(request.programme, request.user, **form.cleaned_data)
        if run is None:
            return redirect("library", programme=request.programme.slug)
        if made.reagent in run.method.materials:
            choose_lot(run, request.user, made)
        return redirect("bench", request.programme.slug, run.pk)
    status = 422 if form.errors else 200
    return render(request, "lots/new_lot.html", {"form": form, "run": run}, status=status)


def _run(request: ProgrammeRequest) -> Run | None:
    """The unfinished test that the lot is for."""
    wanted = request.GET.get("run", "")
    if not wanted:
        return None
    unfinished = Run.objects.of(request.programme).unfinished()
    found: Run = get_object_or_404(unfinished, pk=wanted)
    return found


@needs(Permission.REVIEW)
def correct(request: ProgrammeRequest, lot_id: int) -> HttpResponse:
    """Correct what was noted of a lot. What results are computed with is shown first."""
    found = lot_of(request, lot_id)
    form = LotCorrectionForm(form_data(request), materials_in_use(request.programme), found)
    context = {"lot": found, "form": form}
    if request.method == "POST" and form.is_valid():
        described = dict(form.cleaned_data)
        why = described.pop("why")
        if "back" in request.POST:
            return render(request, "lots/correct.html", context)
        if asks_before(found, described) and "confirmed" not in request.POST:
            context["preview"] = preview(found, described)
            return render(request, "lots/preview.html", context)
        try:
            correct_lot(found, request.user, why, **described)
            return redirect("lot", request.programme.slug, found.pk)
        except ActionNotAllowed as refusal:
            form.add_error(None, str(refusal))
    status = 422 if form.errors else 200
    return render(request, "lots/correct.html", context, status=status)


def measured_on(day: date) -> datetime:
    """When a standard of this day was measured: now, or at noon of an earlier day."""
    now = clock.now()
    if day == timezone.localdate(now):
        return now
    return timezone.make_aware(datetime.combine(day, time(12)))


@needs(Permission.TEST)
def standard(request: ProgrammeRequest, lot_id: int) -> HttpResponse:
    """Record a standard that was measured with this lot."""
    found = lot_of(request, lot_id)
    at_hand = (version.method for version in methods_at_hand(request.programme))
    methods = [method for method in at_hand if found.reagent in method.tracked]
    standards = [lot for lot in Lot.objects.of(request.programme).in_stock() if lot.content]
    kinds = {kind for method in methods for kind in method.instruments}
    instruments = list(Instrument.objects.of(request.programme).of_kinds(kinds))
    form = StandardForm(form_data(request), methods, standards, instruments)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        measure_standard(
            found,
            request.user,
            data["method"],
            form.recovery(),
            measured_on(data["on"]),
            standard=data["standard"],
            instrument=data["instrument"],
        )
        return redirect("lot", request.programme.slug, found.pk)
    context = {"lot": found, "form": form, "measurable": bool(methods)}
    status = 422 if form.errors else 200
    return render(request, "lots/standard.html", context, status=status)
