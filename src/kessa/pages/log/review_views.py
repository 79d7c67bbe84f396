"""The reviewer's queue: one result after the other with its evidence, and the decision."""

from collections.abc import Sequence
from typing import Any

from django.db.models import Q
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST
from django_htmx.http import push_url

from kessa.flows.reviewing import answer, decide, may_accept
from kessa.pages.log.evidence import evidence, whole_evidence
from kessa.pages.log.forms import AnswerForm, DecisionForm
from kessa.pages.log.review_warnings import review_warnings
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.results.models import Result
from kessa.ui.counts import capped_size, in_words
from kessa.ui.row_number import row_number

LISTED = 8


@needs(Permission.REVIEW)
def queue(request: ProgrammeRequest) -> HttpResponse:
    """The first that waits, or ?result=; the others beside it."""
    waiting = _waiting(request)
    return _page(request, _chosen(request, waiting), waiting)


@require_POST
@needs(Permission.REVIEW)
def decision(request: ProgrammeRequest, result_id: int) -> HttpResponse:
    """Accept, return or reject; then the next one."""
    found = get_object_or_404(Result.objects.of(request.programme).with_evidence(), pk=result_id)
    form = DecisionForm(request.POST)
    if form.is_valid():
        said = form.cleaned_data
        try:
            seen = (said["evaluation"], said["last"])
            decide(found, request.user, said["decision"], said["reason"], *seen)
        except ActionNotAllowed as refusal:
            form.add_error(None, str(refusal))
        else:
            return _go_on(request, found)
    waiting = _waiting(request)
    page = _page(request, found, waiting, form)
    # A boosted form pushes its own address, which answers no GET: a reload would be a 405.
    shown = reverse("review", args=[request.programme.slug])
    return push_url(page, f"{shown}?result={found.pk}")


@require_POST
@needs(Permission.TEST)
def reply(request: ProgrammeRequest, result_id: int) -> HttpResponse:
    """The analyst answers what came back."""
    found = get_object_or_404(Result.objects.of(request.programme).with_evidence(), pk=result_id)
    form = AnswerForm(request.POST)
    if form.is_valid():
        try:
            answer(found, request.user, form.cleaned_data["answer"])
        except ActionNotAllowed as refusal:
            form.add_error(None, str(refusal))
        else:
            return redirect("result", programme=request.programme.slug, result_id=found.pk)
    shown = whole_evidence(found, request.user, request.role)
    shown |= {"answer_form": form}
    return render(request, "log/result.html", shown, status=422)


def _waiting(request: ProgrammeRequest) -> list[Result]:
    """The first of the queue, each with how many wait in all."""
    waiting = Result.objects.of(request.programme).for_review()
    return list(waiting.for_queue().annotate(in_all=capped_size(waiting))[:LISTED])


def _chosen(request: ProgrammeRequest, waiting: Sequence[Result]) -> Result | None:
    results = Result.objects.of(request.programme).with_evidence()
    if wanted := row_number(request.GET.get("result", "")):
        found: Result = get_object_or_404(results, pk=wanted)
        return found
    return results.get(pk=waiting[0].pk) if waiting else None


def _go_on(request: ProgrammeRequest, done: Result) -> HttpResponse:
    """The next in the queue after the one that was decided, or the first."""
    later = Q(sampled_at__gt=done.sampled_at) | Q(sampled_at=done.sampled_at, pk__gt=done.pk)
    following = Result.objects.of(request.programme).for_review().filter(later).first()
    response = redirect("review", programme=request.programme.slug)
    if following:
        response["Location"] += f"?result={following.pk}"
    return response


def _page(
    request: ProgrammeRequest,
    result: Result | None,
    waiting: Sequence[Result],
    form: DecisionForm | None = None,
) -> HttpResponse:
    context: dict[str, Any] = {
        "count": in_words(waiting[0].in_all) if waiting else "0",
        "waiting": waiting,
        "form": form,
    }
    if result:
        result.programme = request.programme
        context |= evidence(result, request.user, request.role)
        context |= {
            "concerns": review_warnings(result, context["reviews"]),
            "may_accept": may_accept(result, request.user, context["own"]),
        }
    return render(request, "log/review.html", context, status=422 if form else 200)
