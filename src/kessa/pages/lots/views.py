"""A lot: what is noted of it, and every result that rests on it."""

from django.http import HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, render

from kessa.library.models import Lot
from kessa.pages.log import csv_file
from kessa.pages.log.rows import log_rows
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.results.models import Result
from kessa.runs.models import RunLot
from kessa.ui.counts import capped_count
from kessa.ui.keyset import BY_SAMPLING_TIME, keyset_page

PAGE = 30


@needs(Permission.VIEW)
def lot(request: ProgrammeRequest, lot_id: int) -> HttpResponse:
    """The lot, how many tests used it, and which results rest on it."""
    found = get_object_or_404(Lot.objects.of(request.programme), pk=lot_id)
    results = Result.objects.of(request.programme).with_lot(found)
    page = keyset_page(results.for_log_rows(), request.GET, PAGE, BY_SAMPLING_TIME)
    context = {
        "lot": found,
        "tests": capped_count(RunLot.objects.of(request.programme).filter(lot=found)),
        "page": page,
        "rows": log_rows(request.programme, page.rows),
    }
    return render(request, "lots/lot.html", context)


@needs(Permission.VIEW)
def csv(request: ProgrammeRequest, lot_id: int) -> StreamingHttpResponse:
    """The results of a lot as CSV."""
    found = get_object_or_404(Lot.objects.of(request.programme), pk=lot_id)
    results = Result.objects.of(request.programme).with_lot(found)
    return csv_file.download(results, f"lot-{found.pk}.csv")
