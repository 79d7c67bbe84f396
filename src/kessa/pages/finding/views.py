"""The library's page, and two methods side by side."""

from typing import Any

from django.core.paginator import Paginator
from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone

from kessa.library.models import Instrument, KitCase
from kessa.library.services import updates
from kessa.library.stock import stock_lines
from kessa.pages.finding.comparing import compared
from kessa.pages.finding.queries import SHOWN, Shelf
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest


@needs(Permission.VIEW)
def index(request: ProgrammeRequest) -> HttpResponse:
    """Methods to find, lots and instruments."""
    shelf = Shelf(request.programme, request.user)
    form = shelf.form(request.GET)
    found = shelf.found(form)
    asked = request.GET.copy()
    asked.pop("page", None)
    context: dict[str, Any] = {
        "form": form,
        "found": Paginator(found, SHOWN).get_page(request.GET.get("page")),
        "every": len(shelf.every),
        "asked": asked.urlencode(),
    }
    if request.htmx.target == "found-methods":
        return render(request, "finding/methods.html", context)
    context |= {
        "updates": updates(request.programme),
        "stock": stock_lines(request.programme, shelf.facts_in_use),
        "instruments": Instrument.objects.of(request.programme).order_by("-in_use", "name", "pk"),
        "cases": KitCase.objects.of(request.programme).in_use().select_related("held_by"),
        "today": timezone.localdate(),
    }
    return render(request, "finding/index.html", context)


@needs(Permission.VIEW)
def compare(request: ProgrammeRequest) -> HttpResponse:
    """Two methods side by side."""
    shelf = Shelf(request.programme, request.user)
    wanted = request.GET.getlist("method")[:3]
    chosen = [one for key in wanted for one in shelf.every if one.facts.id == key]
    context: dict[str, Any] = {"chosen": chosen, "wrong": len(chosen) != 2}
    if len(chosen) == 2:
        methods = shelf.methods(chosen)
        context["rows"] = compared(*((one.facts, methods[one.facts.id]) for one in chosen))
    return render(request, "finding/compare.html", context, status=422 if len(chosen) != 2 else 200)
