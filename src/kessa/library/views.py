"""Methods in use and their documents."""

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from kessa.library.choices import ChoicesForm
from kessa.library.models import MethodVersion
from kessa.library.services import follow, update, updates
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data
from kessa.ui.instruments import instruments_of
from kessa_core.methods import Method, shipped, shipped_ids
from kessa_core.methods.local_settings import BadChoice


@needs(Permission.VIEW)
def method(request: ProgrammeRequest, method_id: str, number: str) -> HttpResponse:
    """One version: what it asks, what it reckons with, its document."""
    versions = MethodVersion.objects.of(request.programme).filter(method_id=method_id)
    found = get_object_or_404(versions.numbered(number))
    context = {"version": found, "newest": versions.newest().get()}
    return render(request, "library/method.html", context | _about(request, found.method))


@needs(Permission.VIEW)
def shipped_method(request: ProgrammeRequest, method_id: str) -> HttpResponse:
    """A shipped method that the programme may not use yet."""
    if method_id not in shipped_ids():
        raise Http404
    return render(request, "library/method.html", _about(request, shipped(method_id)))


def _about(request: ProgrammeRequest, method: Method) -> dict[str, Any]:
    return {
        "method": method,
        "instruments": instruments_of([method]),
        "waste": [(part, request.programme.waste.get(part.route)) for part in method.waste],
    }


@needs(Permission.MANAGE)
def choices(request: ProgrammeRequest, method_id: str) -> HttpResponse:
    """The programme's own options on a method."""
    newest = MethodVersion.objects.of(request.programme).newest()
    version = get_object_or_404(newest, method_id=method_id)
    form = ChoicesForm(form_data(request), version.method)
    if request.method == "POST" and form.is_valid():
        try:
            made = follow(version, request.user, form.wanted(), form.cleaned_data["why"])
        except BadChoice as wrong:
            form.refuse(wrong)
        else:
            return redirect("method", request.programme.slug, method_id, made.number)
    context = {"version": version, "method": version.method, "form": form}
    context["next"] = version.own + 1
    return render(request, "library/choices.html", context, status=422 if form.errors else 200)


@needs(Permission.MANAGE)
@require_POST
def use_newer(request: ProgrammeRequest, method_id: str) -> HttpResponse:
    """Use the newest version of a shipped method from the next test on."""
    newest = MethodVersion.objects.of(request.programme).newest()
    version = get_object_or_404(newest, method_id=method_id)
    if version.method_id in {one.in_use.method_id for one in updates(request.programme)}:
        version = update(version, request.user)
    return redirect("method", request.programme.slug, method_id, version.number)
