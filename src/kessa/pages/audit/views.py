"""The audit of a programme: to read, and as a file."""

from urllib.parse import quote

from django.http import HttpResponse, StreamingHttpResponse
from django.shortcuts import render

from kessa.pages.audit.export import pieces
from kessa.pages.audit.rows import audit_rows, names_of
from kessa.platform.models import AuditEntry
from kessa.platform.permissions import Permission, needs
from kessa.platform.plans import planned_for_its_values
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.keyset import BY_NUMBER, keyset_page

PAGE = 50


@needs(Permission.REVIEW)
def index(request: ProgrammeRequest) -> HttpResponse:
    """The entries, the newest first; ?about=result:12 leaves those of one object, ?acts=all adds
    each sending of acts, of which there are many."""
    entries = AuditEntry.objects.of(request.programme).newest_first()
    about = request.GET.get("about", "").replace("\x00", "")[:80]
    every = request.GET.get("acts") == "all"
    if about:
        entries = entries.on(about)
    elif not every:
        entries = entries.read_by_people()
    with planned_for_its_values():
        page = keyset_page(entries, request.GET, PAGE, BY_NUMBER)
    context = {
        "page": page,
        "rows": audit_rows(request.programme, page.rows),
        "about": about,
        "about_words": names_of(request.programme, [about]).get(about, about) if about else "",
        "every": every,
        "asked": "acts=all" if every else f"about={quote(about)}",
    }
    part = request.htmx.target == "entries"
    return render(request, "audit/entries.html" if part else "audit/index.html", context)


@needs(Permission.REVIEW)
def export(request: ProgrammeRequest) -> StreamingHttpResponse:
    """The whole audit as JSON lines. Reading it writes nothing."""
    response = StreamingHttpResponse(
        pieces(request.programme), content_type="application/x-ndjson; charset=utf-8"
    )
    name = f"{request.programme.slug}-audit.jsonl"
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
