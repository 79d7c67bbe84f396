"""The search page; the box on every page leads here."""

from django.http import HttpResponse
from django.shortcuts import render

from kessa.pages.search.find import SHORTEST, find
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest


@needs(Permission.VIEW)
def search(request: ProgrammeRequest) -> HttpResponse:
    """Everything of the programme that fits; htmx replaces the list while one types."""
    text = request.GET.get("q", "")[:80]
    context = {
        "q": text,
        "groups": find(request.programme, text),
        "too_short": len(text.strip()) < SHORTEST,
    }
    part = request.htmx and not request.htmx.boosted
    return render(request, "search/list.html" if part else "search/search.html", context)
