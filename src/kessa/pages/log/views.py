"""The log, its CSV, a result with its evidence, and its events as a file."""

from django.http import HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, render

from kessa.pages.log import csv_file
from kessa.pages.log.evidence import stage_of, whole_evidence
from kessa.pages.log.export import events_file
from kessa.pages.log.forms import LogFilter
from kessa.pages.log.rows import log_rows
from kessa.pages.log.settling import would_settle
from kessa.pages.log.uncertainty import budget_of
from kessa.places.models import Point
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.results.models import Result
from kessa.runs.models import Event
from kessa.ui.keyset import BY_SAMPLING_TIME, keyset_page
from kessa_core.describing.acts import acts_of

PAGE = 25


@needs(Permission.VIEW)
def index(request: ProgrammeRequest) -> HttpResponse:
    """Every result, filtered; htmx replaces the list alone."""
    points = list(Point.objects.of(request.programme).for_lists())
    form = LogFilter(request.GET, points)
    results = form.narrow(Result.objects.of(request.programme)).for_log_rows()
    page = keyset_page(results, request.GET, PAGE, BY_SAMPLING_TIME)
    rows = log_rows(request.programme, page.rows, points=points)
    asked = request.GET.copy()
    for name in ("after", "before", "end"):
        asked.pop(name, None)
    context = {"form": form, "page": page, "rows": rows, "asked": asked.urlencode()}
    part = request.htmx and not request.htmx.boosted
    return render(request, "log/list.html" if part else "log/index.html", context)


@needs(Permission.VIEW)
def csv(request: ProgrammeRequest) -> StreamingHttpResponse:
    """The filtered log as CSV."""
    form = LogFilter(request.GET, Point.objects.of(request.programme).for_lists())
    results = form.narrow(Result.objects.of(request.programme))
    return csv_file.download(results, f"{request.programme.slug}-log.csv")


@needs(Permission.VIEW)
def result(request: ProgrammeRequest, result_id: int) -> HttpResponse:
    """A result with its whole evidence."""
    results = Result.objects.of(request.programme).with_evidence()
    found = get_object_or_404(results, pk=result_id)
    found.programme = request.programme
    shown = whole_evidence(found, request.user, request.role)
    return render(request, "log/result.html", shown)


@needs(Permission.VIEW)
def acts(request: ProgrammeRequest, result_id: int) -> HttpResponse:
    """Every act of the run, which review fetches when somebody opens it."""
    results = Result.objects.of(request.programme).select_related("run__version")
    run = get_object_or_404(results, pk=result_id).run
    made = [row.as_core() for row in Event.objects.of_run(run)]
    return render(request, "log/acts.html", {"acts": acts_of(made, run.method)})


@needs(Permission.VIEW)
def settling(request: ProgrammeRequest, result_id: int) -> HttpResponse:
    """Which methods would settle a verdict that is too close to call; the page fetches it, since
    each reading of each method is judged for it."""
    results = Result.objects.of(request.programme).select_related("current", "run")
    found = get_object_or_404(results, pk=result_id)
    return render(request, "log/settling.html", {"settling": would_settle(found)})


@needs(Permission.VIEW)
def budget(request: ProgrammeRequest, result_id: int) -> HttpResponse:
    """Where the width of the interval comes from; the page fetches it, since the whole test is
    reckoned again for it."""
    results = Result.objects.of(request.programme).with_evidence()
    found = get_object_or_404(results, pk=result_id)
    shown = {"budget": budget_of(found), "stage": stage_of(found), "value": found.evaluation.value}
    return render(request, "log/budget.html", shown)


@needs(Permission.VIEW)
def events(request: ProgrammeRequest, result_id: int) -> HttpResponse:
    """The run's events as JSON lines, as ./kessa run reads them."""
    results = Result.objects.of(request.programme).with_evidence()
    found = get_object_or_404(results, pk=result_id)
    rows = Event.objects.of_run(found.run)
    response = HttpResponse(events_file(found, rows), content_type="application/x-ndjson")
    response["Content-Disposition"] = f'attachment; filename="run-{found.run_id}.jsonl"'
    return response
