"""The log, its CSV, a result with its evidence, and its events as a file."""

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, render

from kessa.bench.models import Event
from kessa.log import csv_file
from kessa.log.evidence import budget_of, evidence, gauge_of, struck_of
from kessa.log.export import events_file
from kessa.log.forms import LogFilter
from kessa.log.models import Result
from kessa.permissions import Permission, needs
from kessa.waters.models import Point

PAGE = 40


@needs(Permission.VIEW)
def index(request: HttpRequest) -> HttpResponse:
    """Every result, filtered; htmx replaces the list alone."""
    form = LogFilter(request.GET, Point.objects.of(request.programme))
    results = form.narrow(Result.objects.of(request.programme)).with_evidence().newest_first()
    results = results.with_history()
    page = Paginator(results, PAGE).get_page(request.GET.get("page"))
    rows = [(result, gauge_of(result), struck_of(result)) for result in page]
    asked = request.GET.copy()
    asked.pop("page", None)
    context = {"form": form, "page": page, "rows": rows, "asked": asked.urlencode()}
    part = request.htmx and not request.htmx.boosted
    return render(request, "log/list.html" if part else "log/index.html", context)


@needs(Permission.VIEW)
def csv(request: HttpRequest) -> HttpResponse:
    """The filtered log as CSV."""
    form = LogFilter(request.GET, Point.objects.of(request.programme))
    results = form.narrow(Result.objects.of(request.programme)).with_evidence().newest_first()
    results = results.with_history().with_lots()
    lines = csv_file.lines(results.iterator(chunk_size=1000))
    response = StreamingHttpResponse(lines, content_type="text/csv; charset=utf-8; header=present")
    response["Content-Disposition"] = f'attachment; filename="{request.programme.slug}-log.csv"'
    return response


@needs(Permission.VIEW)
def result(request: HttpRequest, result_id: int) -> HttpResponse:
    """A result with its whole evidence."""
    results = Result.objects.of(request.programme).with_evidence()
    found = get_object_or_404(results, pk=result_id)
    shown = evidence(found, request.user, request.role) | {"budget": budget_of(found)}
    return render(request, "log/result.html", shown)


@needs(Permission.VIEW)
def events(request: HttpRequest, result_id: int) -> HttpResponse:
    """The run's events as JSON lines, as ./kessa run reads them."""
    results = Result.objects.of(request.programme).with_evidence()
    found = get_object_or_404(results, pk=result_id)
    rows = Event.objects.of_run(found.run)
    response = HttpResponse(events_file(found, rows), content_type="application/x-ndjson")
    response["Content-Disposition"] = f'attachment; filename="run-{found.run_id}.jsonl"'
    return response
