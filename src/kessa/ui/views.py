"""The service worker at the root, and the page that shows every component."""

from pathlib import Path

from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render

from kessa.permissions import public
from kessa.ui.release import release
from kessa.ui.samples import samples

WORKER = Path(__file__).parent / "static" / "ui" / "sw.js"


@public
def service_worker(_request: HttpRequest) -> HttpResponse:
    """The worker, served from / so that it may look after every page."""
    return HttpResponse(
        WORKER.read_bytes(), content_type="text/javascript", headers={"Cache-Control": "no-cache"}
    )


@public
def health(_request: HttpRequest) -> JsonResponse:
    """Whether the database answers and fits this release: 200, or 503 and what is wrong."""
    try:
        executor = MigrationExecutor(connection)
        pending = executor.migration_plan(executor.loader.graph.leaf_nodes())
    except DatabaseError:
        return JsonResponse({"ok": False, "wrong": "the database does not answer"}, status=503)
    if pending:
        return JsonResponse({"ok": False, "wrong": "migrations are pending"}, status=503)
    return JsonResponse({"ok": True, "release": release()})


@public
def style(request: HttpRequest) -> HttpResponse:
    """Every component in its states."""
    return render(request, "ui/style.html", samples())
