"""The service worker at the root, and the page that shows every component."""

from pathlib import Path

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from kessa.platform.permissions import public
from kessa.ui.samples import samples

WORKER = Path(__file__).parent / "static" / "ui" / "sw.js"


@public
def service_worker(_request: HttpRequest) -> HttpResponse:
    """The worker, served from / so that it may look after every page."""
    return HttpResponse(
        WORKER.read_bytes(), content_type="text/javascript", headers={"Cache-Control": "no-cache"}
    )


@public
def style(request: HttpRequest) -> HttpResponse:
    """Every component in its states."""
    return render(request, "ui/style.html", samples())
