"""A lot or an instrument: what is noted of it, and every result that rests on it."""

from typing import Any

from django.db.models import QuerySet
from django.http import HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils import timezone

from kessa.flows.jobs import evaluation_of_lot
from kessa.library.models import Instrument
from kessa.library.stock import materials_in_use
from kessa.pages.log import csv_file
from kessa.pages.log.rows import log_rows
from kessa.pages.lots.lot_views import lot_of
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.results.models import Result
from kessa.runs.models import RunInstrument, RunLot, StandardCheck
from kessa.ui.counts import capped_count
from kessa.ui.keyset import BY_SAMPLING_TIME, keyset_page
from kessa_core.finding.materials import Material

PAGE = 25
SHOWN_CHECKS = 12


def _instrument(request: ProgrammeRequest, instrument_id: int) -> Instrument:
    instruments = Instrument.objects.of(request.programme)
    found: Instrument = get_object_or_404(instruments, pk=instrument_id)
    return found


@needs(Permission.VIEW)
def lot(request: ProgrammeRequest, lot_id: int) -> HttpResponse:
    """The lot, how many tests used it, and which results rest on it."""
    found = lot_of(request, lot_id)
    used = RunLot.objects.done_with(found)
    results = Result.objects.of(request.programme).with_lot(found)
    material = materials_in_use(request.programme).get(found.reagent, Material(""))
    stock = found.stock(material.one_test)
    checks = StandardCheck.objects.of(request.programme).filter(lot=found).standing()
    context = {
        "lot": found,
        "evaluation": evaluation_of_lot(found),
        "stock": stock,
        "warnings": stock.warnings(timezone.localdate()) if found.in_use else (),
        "checks": checks[:SHOWN_CHECKS],
        "material": material,
    }
    return render(request, "lots/lot.html", context | _listed(request, used, results))


@needs(Permission.VIEW)
def csv(request: ProgrammeRequest, lot_id: int) -> StreamingHttpResponse:
    """The results of a lot as CSV."""
    found = lot_of(request, lot_id)
    results = Result.objects.of(request.programme).with_lot(found)
    return csv_file.download(results, f"lot-{found.pk}.csv")


@needs(Permission.VIEW)
def computing(request: ProgrammeRequest, lot_id: int) -> HttpResponse:
    """Whether the results of a lot are being computed again: a piece of its page."""
    found = lot_of(request, lot_id)
    context = {"lot": found, "evaluation": evaluation_of_lot(found), "asked_again": True}
    return render(request, "lots/computing.html", context)


@needs(Permission.VIEW)
def instrument(request: ProgrammeRequest, instrument_id: int) -> HttpResponse:
    """The instrument, its checks, and which results were read with it."""
    found = _instrument(request, instrument_id)
    used = RunInstrument.objects.of(request.programme).read_with(found)
    results = Result.objects.of(request.programme).with_instrument(found)
    return render(
        request,
        "lots/instrument.html",
        {"instrument": found, "checks": found.checks.select_related("against", "by")[:SHOWN_CHECKS]}
        | _listed(request, used, results),
    )


@needs(Permission.VIEW)
def instrument_csv(request: ProgrammeRequest, instrument_id: int) -> StreamingHttpResponse:
    """The results that were read with an instrument as CSV."""
    found = _instrument(request, instrument_id)
    results = Result.objects.of(request.programme).with_instrument(found)
    return csv_file.download(results, f"instrument-{found.pk}.csv")


def _listed(request: ProgrammeRequest, used: "QuerySet[Any]", results: Any) -> dict[str, Any]:
    """How many tests used it, and a page of its results."""
    page = keyset_page(results.for_log_rows(), request.GET, PAGE, BY_SAMPLING_TIME)
    rows = log_rows(request.programme, page.rows)
    return {"tests": capped_count(used), "page": page, "rows": rows}
