"""A method's page, and what is printed of it."""

from dataclasses import dataclass
from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from kessa.library.models import MethodVersion
from kessa.pages.method.paper import card_size
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.runs.services import changed_since_last
from kessa.ui.instruments import instruments_of
from kessa.ui.spans import drawn_span
from kessa.ui.timelines import drawn_timeline
from kessa_core.describing import data_sheet, lay_out, timeline
from kessa_core.methods import Method, shipped, shipped_ids

PAPERS = ("a4", "a6")


@dataclass(frozen=True)
class Wanted:
    """A method as a page shows it. version: as the programme took it up; None where it is only
    shipped. newest: the version in use."""

    method: Method
    version: MethodVersion | None = None
    newest: MethodVersion | None = None


def _wanted(request: ProgrammeRequest, method_id: str, number: str) -> Wanted:
    """One version; without a number, what is shipped. 404 where there is none."""
    if not number:
        if method_id not in shipped_ids():
            raise Http404
        return Wanted(shipped(method_id))
    versions = MethodVersion.objects.of(request.programme).filter(method_id=method_id)
    found = get_object_or_404(versions.numbered(number))
    return Wanted(found.method, found, versions.newest().get())


@needs(Permission.VIEW)
def method(request: ProgrammeRequest, method_id: str, number: str) -> HttpResponse:
    """What it asks, how far it reaches, its clocks, what it reckons with, its document."""
    wanted = _wanted(request, method_id, number)
    found = wanted.method
    changed = changed_since_last(request.programme, request.user, found) if number else []
    context: dict[str, Any] = {
        "method": found,
        "version": wanted.version,
        "newest": wanted.newest,
        "changed": changed,
        "stages": [(one, drawn_span(one.stage)) for one in instruments_of([found])],
        "timeline": drawn_timeline(timeline(found)),
        "lay_out": lay_out(found),
        "waste": [(part, request.programme.waste.get(part.route)) for part in found.waste],
    }
    return render(request, "method/method.html", context)


@needs(Permission.VIEW)
def card(request: ProgrammeRequest, method_id: str, number: str) -> HttpResponse:
    """The field card: one A4 page, or two A6 pages to fold."""
    found = _wanted(request, method_id, number).method
    paper = request.GET.get("paper", PAPERS[0])
    if paper not in PAPERS:
        raise Http404
    context = {
        "method": found,
        "back": _address(request, method_id, number),
        "paper": paper,
        "size": card_size(found, paper),
        "lay_out": lay_out(found),
        "waste": [(part, request.programme.waste.get(part.route)) for part in found.waste],
    }
    return render(request, "method/card.html", context)


@needs(Permission.VIEW)
def sheet(request: ProgrammeRequest, method_id: str, number: str) -> HttpResponse:
    """A blank data sheet, in the order of the work."""
    found = _wanted(request, method_id, number).method
    context = {
        "method": found,
        "back": _address(request, method_id, number),
        "blocks": data_sheet(found),
    }
    return render(request, "method/sheet.html", context)


def _address(request: ProgrammeRequest, method_id: str, number: str) -> str:
    """The page of the method that is printed."""
    slug = request.programme.slug
    if number:
        return reverse("method", args=[slug, method_id, number])
    return reverse("shipped-method", args=[slug, method_id])
