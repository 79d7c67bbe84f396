"""Writing a limit set: its head, its limits one by one, its text, and its publication."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from kessa.pages.limits.forms import AddForm, HeadForm, LimitForm, NewSetForm
from kessa.places import limit_drafts
from kessa.places.limit_sets import find_set
from kessa.places.models import LimitSetDraft
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.platform.typed import one_line
from kessa.ui.form_data import form_data
from kessa_core.documents.load import InvalidDocument
from kessa_core.drafts.problems import plain
from kessa_core.errors import UnknownName
from kessa_core.judging import set_drafts
from kessa_core.judging.editions import compare
from kessa_core.judging.limits import Limit
from kessa_core.judging.set_drafts import Draft

NO_SET = "This is no limit set: it needs a title, an edition, a note and limits."


def _draft(request: ProgrammeRequest, draft_id: int) -> LimitSetDraft:
    found: LimitSetDraft = get_object_or_404(
        LimitSetDraft.objects.of(request.programme).open(), pk=draft_id
    )
    return found


def _to(request: ProgrammeRequest, draft: LimitSetDraft) -> HttpResponse:
    return redirect("limit-draft", programme=request.programme.slug, draft_id=draft.pk)


@needs(Permission.MANAGE)
@require_POST
def begin(request: ProgrammeRequest) -> HttpResponse:
    """A set without a limit yet."""
    form = NewSetForm(request.POST)
    if not form.is_valid():
        messages.error(request, "Enter a title for the new set.")
        return redirect("limits", programme=request.programme.slug)
    title = form.cleaned_data["title"]
    return _to(request, limit_drafts.begin_blank(request.programme, request.user, title))


@needs(Permission.MANAGE)
def draft(request: ProgrammeRequest, draft_id: int) -> HttpResponse:
    """The draft: its head, its limits, what is missing, and what differs from what it was."""
    held = _draft(request, draft_id)
    is_sent = request.method == "POST"
    form = HeadForm(form_data(request), initial=held.data)
    context: dict[str, Any] = {"draft": held, "form": form, "add": AddForm(None)}
    if is_sent and form.is_valid():
        said = {name: form.cleaned_data[name] for name in set_drafts.HEAD}
        try:
            limit_drafts.change(held, request.user, _revision(request), lambda was: was | said)
        except ActionNotAllowed as refusal:
            context["conflict"] = str(refusal)
        else:
            messages.success(request, "Saved.")
            return _to(request, held)
    context |= _told(request, held)
    return render(request, "limits/draft.html", context, status=422 if is_sent else 200)


def _told(request: ProgrammeRequest, held: LimitSetDraft) -> dict[str, Any]:
    """Its limits, what is wrong, and what differs from the set it was copied from."""
    problems = set_drafts.problems(held.data)
    told: dict[str, Any] = {"problems": problems, "limits": _limits(held.data)}
    if held.based_on and not problems:
        told["older"] = find_set(request.programme.pk, held.based_on)
        told["changes"] = compare(told["older"], set_drafts.set_of(held.data, "draft"))
    return told


def _limits(data: Draft) -> list[Limit]:
    """Those limits of a draft that are in order."""
    found = []
    for one in data["limits"]:
        try:
            found.append(Limit.model_validate(one))
        except ValueError:
            continue
    return found


@needs(Permission.MANAGE)
def limit(request: ProgrammeRequest, draft_id: int, limit_id: str) -> HttpResponse:
    """One limit of a draft: edited, or taken out."""
    held = _draft(request, draft_id)
    try:
        said = set_drafts.limit_in(held.data, limit_id)
    except UnknownName:
        raise Http404(f"There is no limit {limit_id}.") from None
    return _edited(request, held, said, is_new=False)


@needs(Permission.MANAGE)
def add(request: ProgrammeRequest, draft_id: int) -> HttpResponse:
    """Another limit, for the parameter that was chosen."""
    held = _draft(request, draft_id)
    try:
        said = set_drafts.new_limit(held.data, request.GET.get("parameter", ""))
    except UnknownName:
        raise Http404("There is no such parameter.") from None
    return _edited(request, held, said, is_new=True)


def _edited(
    request: ProgrammeRequest, held: LimitSetDraft, said: Draft, *, is_new: bool
) -> HttpResponse:
    is_sent = request.method == "POST"
    form = LimitForm(form_data(request), said)
    context: dict[str, Any] = {"draft": held, "form": form, "said": said, "is_new": is_new}
    try:
        if is_sent and request.POST.get("do") == "remove":
            limit_drafts.change(
                held, request.user, _revision(request),
                lambda was: set_drafts.without_limit(was, said["id"]),
            )  # fmt: skip
            return _to(request, held)
        if is_sent and form.is_valid():
            made = form.limit(form.cleaned_data)
            limit_drafts.change(
                held, request.user, _revision(request), lambda was: set_drafts.put_limit(was, made)
            )
            return _to(request, held)
    except (ActionNotAllowed, InvalidDocument) as refusal:
        context["conflict"] = str(refusal)
    context["parameter"] = Limit.model_construct(**said).quantity.name
    return render(request, "limits/draft_limit.html", context, status=422 if is_sent else 200)


@needs(Permission.MANAGE)
def text(request: ProgrammeRequest, draft_id: int) -> HttpResponse:
    """The draft as the text of its document, typed or brought along."""
    held = _draft(request, draft_id)
    typed = set_drafts.document_of(held.data, held.based_on or "draft")
    context: dict[str, Any] = {"draft": held, "text": typed}
    if request.method != "POST":
        return render(request, "limits/draft_text.html", context)
    context["text"] = request.POST.get("text", "")
    data = plain(context["text"])
    if not data or not isinstance(data.get("limits"), list) or not data.get("title"):
        context["conflict"] = NO_SET
        return render(request, "limits/draft_text.html", context, status=422)
    context["problems"] = set_drafts.problems(data)
    if context["problems"]:
        return render(request, "limits/draft_text.html", context, status=422)
    try:
        limit_drafts.change(held, request.user, _revision(request), lambda was: data)
    except ActionNotAllowed as refusal:
        context["conflict"] = str(refusal)
        return render(request, "limits/draft_text.html", context, status=422)
    return _to(request, held)


@needs(Permission.MANAGE)
@require_POST
def publish(request: ProgrammeRequest, draft_id: int) -> HttpResponse:
    """The draft becomes an edition; then it is chosen where it applies."""
    held = _draft(request, draft_id)
    what = one_line(request.POST.get("what", ""), 240)
    try:
        made = limit_drafts.publish(held, request.user, what)
    except InvalidDocument:
        messages.error(request, "Not published: something is still missing. It is named below.")
        return _to(request, held)
    messages.success(request, "Published. It applies nowhere yet: choose where, and from when on.")
    return redirect("limit-set-attach", programme=request.programme.slug, set_id=made.set_id)


@needs(Permission.MANAGE)
@require_POST
def discard(request: ProgrammeRequest, draft_id: int) -> HttpResponse:
    """The draft is thrown away."""
    limit_drafts.close(_draft(request, draft_id))
    messages.success(request, "The draft was thrown away.")
    return redirect("limits", programme=request.programme.slug)


def _revision(request: ProgrammeRequest) -> int:
    """The revision of the draft that the page showed; 0, which no draft has, for none."""
    typed = request.POST.get("revision", "")
    return int(typed) if typed.isdecimal() and len(typed) < 9 else 0
