"""Pages to correct a result: its readings, its sample, its field conditions."""

from django.core.exceptions import PermissionDenied
from django.forms import Form
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django_htmx.http import HttpResponseClientRedirect

from kessa.flows.correcting import correct_reading, correct_sample, may_correct
from kessa.flows.reviewing import analysts_of
from kessa.pages.log.correct_forms import ReadingForm, SampleForm
from kessa.pages.log.evidence import stage_of
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.results.models import Result
from kessa.ui.form_data import form_data


def _own(request: ProgrammeRequest, result_id: int) -> Result:
    results = Result.objects.of(request.programme).with_evidence()
    found: Result = get_object_or_404(results, pk=result_id)
    if not may_correct(found, request.user, request.role, analysts_of(found.run)):
        raise PermissionDenied
    return found


@needs(Permission.TEST)
def reading(request: ProgrammeRequest, result_id: int) -> HttpResponse:
    """Correct one determination's reading."""
    found = _own(request, result_id)
    counted = [d for d in found.evaluation.determinations if d["id"] and not d["rejected"]]
    stage = stage_of(found)
    reader = stage.reader() if stage else None
    asked = (reader.corrected_by, reader.reading_fields) if reader else ()
    form = ReadingForm(form_data(request), counted, *asked)
    if request.method == "POST" and form.is_valid():
        try:
            correct_reading(found, request.user, **form.correction())
            return _back(request, found)
        except ActionNotAllowed as refusal:
            form.add_error(None, str(refusal))
    return _page(request, found, form, "log/correct_reading.html")


@needs(Permission.TEST)
def sample(request: ProgrammeRequest, result_id: int) -> HttpResponse:
    """Correct the sample or its context."""
    found = _own(request, result_id)
    form = SampleForm.of(found.run.sample, form_data(request))
    if request.method == "POST" and form.is_valid():
        try:
            correct_sample(found.run.sample, request.user, form.changes(), form.cleaned_data["why"])
            return _back(request, found)
        except ActionNotAllowed as refusal:
            form.add_error(None, str(refusal))
    return _page(request, found, form, "log/correct_sample.html")


def _back(request: ProgrammeRequest, result: Result) -> HttpResponse:
    """To the result, which says what it was before; in place where the form stood in its page."""
    address = reverse("result", args=[request.programme.slug, result.pk])
    return HttpResponseClientRedirect(address) if request.htmx else redirect(address)


def _page(request: ProgrammeRequest, result: Result, form: Form, template: str) -> HttpResponse:
    context = {"result": result, "form": form}
    return render(request, template, context, status=422 if form.errors else 200)
