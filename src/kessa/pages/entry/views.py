"""Typing in from paper: which sheet, the sheet, what comes of a line, and pasting a table."""

from collections.abc import Sequence

from django.contrib import messages
from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from kessa.flows.choosing import tests_to_choose
from kessa.flows.packing import points_of
from kessa.flows.paper import keep_sheet
from kessa.library.services import in_use
from kessa.pages.entry.rows import Sheet, TypedRow
from kessa.places.models import Point
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.row_number import row_number
from kessa.visits.models import TestSet
from kessa_core.fast_entry.pasting import (
    DAY,
    NOTE,
    NOTHING,
    POINT,
    TIME,
    BadTable,
    Pasted,
    read_pasted,
)  # fmt: skip

LINES, MOST_TESTS = 6, 30
FIXED = ((NOTHING, "leave out"), (DAY, "Day"), (TIME, "Time"), (POINT, "Point"), (NOTE, "Note"))


@needs(Permission.TEST)
def choose(request: ProgrammeRequest) -> HttpResponse:
    """Which tests the paper holds: those of a set, or some that are ticked."""
    context = {
        "sets": TestSet.objects.of(request.programme).in_use(),
        "groups": tests_to_choose(request.programme, request.user),
    }
    return render(request, "entry/choose.html", context)


def _sheet(request: ProgrammeRequest) -> tuple[Sheet, TestSet | None]:
    """The sheet that ?set= or ?method= names."""
    points = list(Point.objects.of(request.programme).for_lists())
    held, ids = None, request.GET.getlist("method")
    if wanted := row_number(request.GET.get("set", "")):
        held = TestSet.objects.of(request.programme).filter(pk=wanted).first()
        if held is None:
            raise Http404
        ids = held.method_ids
        mine = [one.pk for one in points_of(held)]
        points = sorted(points, key=lambda one: (one.pk not in mine, one.pk))
    versions = (in_use(request.programme, key, request.user) for key in ids[:MOST_TESTS])
    methods = [version.method for version in versions if version]
    if not methods:
        raise Http404
    return Sheet.of(request.programme, methods, points), held


@needs(Permission.TEST)
def sheet(request: ProgrammeRequest) -> HttpResponse:
    """The sheet: a line a sample, a column a test."""
    made, held = _sheet(request)
    if request.method != "POST":
        return _page(request, made, held, _first_lines(made, held))
    rows = made.typed(request.POST)
    read = made.read(rows)
    if any(row.is_wrong for row in rows) or not read:
        return _page(request, made, held, rows, nothing=not any(not row.is_empty for row in rows))
    visits = keep_sheet(request.programme, request.user, read)
    count = sum(one.readings for one in read)
    plural = "" if count == 1 else "s"
    messages.info(request, f"{count} reading{plural} saved, marked “from paper”.")
    if len(visits) == 1:
        return redirect("visit", request.programme.slug, visits[0].pk)
    return redirect("log", request.programme.slug)


def _first_lines(made: Sheet, held: TestSet | None) -> list[TypedRow]:
    """A line for each point of a set, else some empty ones."""
    today = f"{timezone.localdate():%Y-%m-%d}"
    places = [str(one) for one in held.point_ids] if held else [""] * LINES
    if not held and len(made.points) == 1:
        places = [str(made.points[0].pk)] * LINES
    return [
        made.blank(number, place, "" if number else today) for number, place in enumerate(places)
    ]


def _page(
    request: ProgrammeRequest,
    made: Sheet,
    held: TestSet | None,
    rows: Sequence[TypedRow],
    nothing: bool = False,
) -> HttpResponse:
    context = {
        "set": held,
        "sheet": made,
        "rows": rows,
        "more": made.blank(0),
        "nothing": nothing,
        "wrong": any(row.is_wrong for row in rows),
        "query": request.GET.urlencode(),
    }
    status = 422 if nothing or context["wrong"] else 200
    return render(request, "entry/sheet.html", context, status=status)


@require_POST
@needs(Permission.TEST, answers="json")
def preview_row(request: ProgrammeRequest) -> JsonResponse:
    """What comes of each cell of the lines that were sent: {cells: {name: {said, wrong}}}."""
    made, _ = _sheet(request)
    rows = made.typed(request.POST)
    made.read(rows)
    told = {
        f"cell-{row.number}-{cell.column.key}": {"said": cell.said, "wrong": cell.wrong}
        for row in rows
        for cell in row.cells
    }
    return JsonResponse({"cells": told})


@needs(Permission.TEST)
def paste(request: ProgrammeRequest) -> HttpResponse:
    """A table from a spreadsheet: pasted, its columns confirmed, then in the sheet."""
    made, held = _sheet(request)
    text, pasted, wrong = request.POST.get("table", ""), None, ""
    if request.method == "POST":
        try:
            pasted = read_pasted(text, made.columns)
        except BadTable as error:
            wrong = str(error)
    if pasted and "fill" in request.POST:
        return _page(request, made, held, _filled(request, made, pasted))
    choices = [*FIXED, *((one.key, one.title) for one in made.columns)]
    context = {
        "set": held,
        "sheet": made,
        "text": text,
        "pasted": pasted,
        "heads": list(zip(pasted.heads, pasted.guesses, strict=True)) if pasted else [],
        "choices": choices,
        "wrong": wrong,
        "query": request.GET.urlencode(),
    }
    return render(request, "entry/paste.html", context, status=422 if wrong else 200)


def _filled(request: ProgrammeRequest, made: Sheet, pasted: Pasted) -> list[TypedRow]:
    """The lines of a pasted table, by what its columns were confirmed to be."""
    kinds = [request.POST.get(f"column-{at}", guess.is_) for at, guess in enumerate(pasted.guesses)]
    names = {one.name.casefold(): str(one.pk) for one in made.points}
    names |= {str(one).casefold(): str(one.pk) for one in made.points}
    alone = str(made.points[0].pk) if len(made.points) == 1 else ""
    rows = []
    for number, cells in enumerate(pasted.rows):
        row = made.blank(number, alone)
        for kind, text in zip(kinds, cells, strict=True):
            if kind == DAY:
                row.day = text
            elif kind == TIME:
                row.time = text
            elif kind == NOTE:
                row.note = text
            elif kind == POINT:
                row.point = names.get(text.casefold(), "")
            else:
                for cell in row.cells:
                    if cell.column.key == kind:
                        cell.text = text
        rows.append(row)
    made.read(rows)
    return rows
