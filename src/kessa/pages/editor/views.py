"""Writing a method down: begin, fill in, try, publish; files out and in."""

from contextlib import suppress
from dataclasses import replace
from http import HTTPStatus
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from kessa.library import drafts
from kessa.library.models import MethodDraft, MethodVersion
from kessa.library.services import methods_of, shipped_beside
from kessa.pages.bench.opening import opening_of
from kessa.pages.editor.beside import beside_of
from kessa.pages.editor.by_hand import payload_of, practice_of, stand_ins
from kessa.pages.editor.forms import BeginForm, FileForm, PublishForm
from kessa.pages.editor.sections import KINDS, page_of
from kessa.pages.editor.shapes import changing
from kessa.platform import clock
from kessa.platform.permissions import Permission, needs
from kessa.platform.release import release
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data
from kessa.ui.gauges import bare_gauges
from kessa.ui.instruments import instruments_of
from kessa_core.documents.load import MAX_BYTES, InvalidDocument
from kessa_core.drafts import fields, problems
from kessa_core.errors import CoreError
from kessa_core.judging.context import PointContext
from kessa_core.methods import Method
from kessa_core.sheets.rows import gauge_maximums

WRONG = HTTPStatus.UNPROCESSABLE_ENTITY


@needs(Permission.MANAGE)
def begin(request: ProgrammeRequest) -> HttpResponse:
    """Begin a draft: with what is held in the hand, or with the nearest kit."""
    methods = _methods(request)
    form = BeginForm(form_data(request), methods)
    if request.method == "POST" and form.is_valid():
        title, like = form.cleaned_data["title"], form.cleaned_data["like"]
        if like:
            nearest = next(one for one in methods if one.id == like)
            made = drafts.begin_from(request.programme, request.user, nearest, title)
        else:
            held = form.cleaned_data["held"]
            made = drafts.begin_with(request.programme, request.user, held, title)
        return redirect("draft", request.programme.slug, made.pk)
    context = {
        "form": form,
        "file_form": FileForm(),
        "starts": page_of({}).starts,
        "drafts": MethodDraft.objects.of(request.programme).open().select_related("saved_by"),
    }
    status = WRONG if form.errors else HTTPStatus.OK
    return render(request, "editor/begin.html", context, status=status)


@needs(Permission.MANAGE)
@require_POST
def bring_in(request: ProgrammeRequest) -> HttpResponse:
    """A draft from a method file; what is wrong with it is said with its line."""
    form = FileForm(request.POST, request.FILES)
    if not form.is_valid():
        return _begin_again(request, form, [])
    text = form.text()
    try:
        method = problems.read_method(text)
    except InvalidDocument as wrong:
        return _begin_again(request, form, [str(one) for one in wrong.problems])
    data = method.model_dump(mode="json", exclude_defaults=True)
    data.pop("local_settings", None)
    made = drafts.begin(request.programme, request.user, data)
    return redirect("draft", request.programme.slug, made.pk)


def _methods(request: ProgrammeRequest) -> list[Method]:
    """Every method that a draft can begin like: those in use, then those that are shipped."""
    used = methods_of(request.programme)
    return [*used, *shipped_beside({one.id for one in used})]


def _begin_again(request: ProgrammeRequest, form: FileForm, wrong: list[str]) -> HttpResponse:
    context = {
        "form": BeginForm(None, _methods(request)),
        "file_form": form,
        "starts": page_of({}).starts,
        "wrong": wrong,
        "drafts": MethodDraft.objects.of(request.programme).open().select_related("saved_by"),
    }
    return render(request, "editor/begin.html", context, status=WRONG)


@needs(Permission.MANAGE)
@require_POST
def begin_next(request: ProgrammeRequest, method_id: str) -> HttpResponse:
    """A draft of the next version of a method of one's own."""
    newest = MethodVersion.objects.of(request.programme).newest()
    version = get_object_or_404(newest, method_id=method_id)
    made = drafts.begin_next(version, request.user)
    return redirect("draft", request.programme.slug, made.pk)


@needs(Permission.MANAGE)
def draft(request: ProgrammeRequest, draft_id: int) -> HttpResponse:
    """The editor; a POST saves what was typed."""
    held = _draft(request, draft_id)
    if held.published:
        version = held.published
        return redirect("method", request.programme.slug, version.method_id, version.number)
    if request.method != "POST":
        return render(request, "editor/draft.html", _context(held))
    saved = _save(request, held)
    if not request.htmx:
        return redirect("draft", request.programme.slug, held.pk)
    if saved.merged or saved.conflicts or saved.follows:
        return _whole(request, saved)
    return render(request, "editor/beside.html", _context(saved.draft, form=False))


@needs(Permission.MANAGE)
@require_POST
def change(request: ProgrammeRequest, draft_id: int) -> HttpResponse:
    """A button that changes the draft's shape; what was typed beside it is saved first."""
    held = _draft(request, draft_id)
    saved = _save(request, held)
    asked = {key: value for key, value in request.POST.items() if isinstance(value, str)}
    button = dict(part.partition("=")[::2] for part in asked.get("button", "").split("&"))
    wrong = ""
    try:
        changed = drafts.change(saved.draft, request.user, changing(asked | button))
        saved = replace(saved, draft=changed)
    except CoreError as error:
        wrong = str(error)
    if not request.htmx:
        return redirect("draft", request.programme.slug, held.pk)
    return _whole(request, saved, wrong)


@needs(Permission.MANAGE)
def text(request: ProgrammeRequest, draft_id: int) -> HttpResponse:
    """The draft as text, for whoever would rather type it."""
    held = _draft(request, draft_id)
    context: dict[str, Any] = {"draft": held, "wrong": []}
    status = HTTPStatus.OK
    if request.method == "POST":
        typed = (
            request.POST.get("text", "")[: MAX_BYTES + 1].replace("\r\n", "\n").replace("\x00", "")
        )
        saved = drafts.save_text(held, request.user, _revision(request), typed)
        held = context["draft"] = saved.draft
        if saved.merged:
            context["merged"] = held.saved_by
        elif not held.text:
            return redirect("draft", request.programme.slug, held.pk)
        status = WRONG
    context["text"] = held.text or problems.text_of(held.data)
    context["wrong"] = _wrong(context["text"])
    return render(request, "editor/text.html", context, status=status)


@needs(Permission.MANAGE)
@require_POST
def attempt(request: ProgrammeRequest, draft_id: int) -> HttpResponse:
    """Try the draft on simulated samples."""
    held = _draft(request, draft_id)
    if "revision" in request.POST:
        held = _save(request, held).draft
    with suppress(InvalidDocument):
        drafts.try_draft(held)
    if not request.htmx:
        return redirect("draft", request.programme.slug, held.pk)
    return render(request, "editor/beside.html", _context(held, form=False))


@needs(Permission.MANAGE)
@require_GET
def by_hand(request: ProgrammeRequest, draft_id: int) -> HttpResponse:
    """The bench with the draft on a simulated sample; nothing of it is recorded."""
    held = _draft(request, draft_id)
    back = reverse("draft", args=[request.programme.slug, held.pk])
    try:
        method = problems.method_of(held.data)
    except InvalidDocument:
        return redirect(back)
    sheets = payload_of(method)
    context = stand_ins(clock.now()) | {
        "practice": practice_of(method, held.revision, back),
        "opening": opening_of(sheets),
        "method": method,
        "instruments": instruments_of([method]),
        "payload": sheets,
        "release": release(),
        "gauges": bare_gauges(PointContext(), gauge_maximums(PointContext())),
    }
    return render(request, "bench/run.html", context)


@needs(Permission.MANAGE)
@require_POST
def publish(request: ProgrammeRequest, draft_id: int) -> HttpResponse:
    """Publish the draft as the next version of its method."""
    held = _draft(request, draft_id)
    form = PublishForm(request.POST)
    what = form.cleaned_data["what"] if form.is_valid() else ""
    try:
        version = drafts.publish(held, request.user, what)
    except InvalidDocument:
        return _refused(request, held, "Something is still missing.")
    except drafts.NotPublished as wrong:
        return _refused(request, held, str(wrong))
    return redirect("method", request.programme.slug, version.method_id, version.number)


@needs(Permission.MANAGE)
@require_POST
def put_away(request: ProgrammeRequest, draft_id: int) -> HttpResponse:
    """Put a draft away."""
    drafts.close(_draft(request, draft_id))
    return redirect("begin-method", request.programme.slug)


@needs(Permission.VIEW)
@require_GET
def file(request: ProgrammeRequest, method_id: str, number: str) -> HttpResponse:
    """A version as its file."""
    versions = MethodVersion.objects.of(request.programme).filter(method_id=method_id)
    found = get_object_or_404(versions.numbered(number))
    response = HttpResponse(found.document, content_type="application/yaml; charset=utf-8")
    name = f"{found.method_id}-{found.number}.yaml"
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


def _draft(request: ProgrammeRequest, draft_id: int) -> MethodDraft:
    held = MethodDraft.objects.of(request.programme).filter(closed=False)
    found: MethodDraft = get_object_or_404(
        held.select_related("published", "saved_by"), pk=draft_id
    )
    return found


def _revision(request: HttpRequest) -> int:
    number = request.POST.get("revision", "0")
    return int(number) if number.isdigit() and len(number) < 9 else 0


def _save(request: ProgrammeRequest, held: MethodDraft) -> drafts.Saved:
    """Save the fields that the page sent."""
    asked = {one.name: one for one in page_of(held.data).every()}
    shown = set(request.POST.getlist("shown"))
    typed = {
        name: fields.typed(one, request.POST.getlist(name))
        for name, one in asked.items()
        if name in shown or name in request.POST
    }
    return drafts.save_fields(held, request.user, _revision(request), typed)


def _context(held: MethodDraft, *, form: bool = True) -> dict[str, Any]:
    context: dict[str, Any] = {"draft": held, "beside": beside_of(held), "publish": PublishForm()}
    if form:
        context |= {"page": page_of(held.data), "kinds": KINDS}
    return context


def _whole(request: ProgrammeRequest, saved: drafts.Saved, wrong: str = "") -> HttpResponse:
    """The whole editor again, where more changed than the page shows."""
    context = _context(saved.draft) | {
        "conflicts": saved.conflicts,
        "also_by": saved.also_by,
        "wrong": wrong,
    }
    response = render(request, "editor/editor.html", context)
    response["HX-Retarget"], response["HX-Reswap"] = "#editor", "outerHTML"
    return response


def _refused(request: ProgrammeRequest, held: MethodDraft, why: str) -> HttpResponse:
    context = _context(held) | {"refused": why}
    return render(request, "editor/draft.html", context, status=WRONG)


def _wrong(typed: str) -> list[str]:
    try:
        problems.read_draft(typed)
    except InvalidDocument as wrong:
        return [str(one) for one in wrong.problems]
    return []
