"""The limits in force, and one limit: what is judged against it, and what can see it."""

from django.http import Http404, HttpResponse
from django.shortcuts import render

from kessa.pages.limits.compliance import compliance_at
from kessa.pages.limits.queries import (
    judged_against,
    methods_for,
    newest_against,
    rows_of,
    sets_in_force,
)
from kessa.pages.limits.set_views import found_set
from kessa.places.limit_sets import sets_known
from kessa.places.models import LimitSetDraft
from kessa.platform.permissions import Permission, may, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.keyset import BY_TIME_IN_FORCE, keyset_page
from kessa_core.judging.formulas import table

PAGE = 15


@needs(Permission.VIEW)
def index(request: ProgrammeRequest) -> HttpResponse:
    """The limit sets that apply today, with their limits."""
    drafts = LimitSetDraft.objects.of(request.programme).open()
    context = {
        "sets": sets_in_force(request.programme),
        "known": sets_known(request.programme),
        "drafts": drafts if may(request.role, Permission.MANAGE) else [],
    }
    return render(request, "limits/index.html", context)


@needs(Permission.VIEW)
def limit(request: ProgrammeRequest, set_id: str, limit_id: str) -> HttpResponse:
    """One limit: what it says, the newest result of each point, what can see it, every result."""
    held = found_set(request, set_id)
    found = next((one for one in held.limits if one.id == limit_id), None)
    if found is None:
        raise Http404(f"There is no limit {limit_id} in the set {set_id}.")
    verdicts = judged_against(request.programme, held, found)
    page = keyset_page(verdicts, request.GET, PAGE, BY_TIME_IN_FORCE)
    lines = newest_against(request.programme, held, found)
    points = {line.point.pk: line.point for line in lines}
    context = {
        "held": held,
        "limit": found,
        "formula": table(found.formula) if found.formula else None,
        "compliance": compliance_at(request.programme, held, found),
        "lines": lines,
        "methods": methods_for(request.programme, found),
        "page": page,
        "rows": rows_of(request.programme, page.rows, points.values()),
    }
    return render(request, "limits/limit.html", context)
