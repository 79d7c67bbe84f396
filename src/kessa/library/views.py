"""The library: methods in use and their documents."""

from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from kessa.library.choices import ChoicesForm
from kessa.library.models import Instrument, Lot, MethodVersion
from kessa.library.services import fits, follow, shipped_not_in_use, update, updates
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data
from kessa.ui.instruments import instruments_of
from kessa_core.methods.local_settings import BadChoice


@needs(Permission.VIEW)
def index(request: ProgrammeRequest) -> HttpResponse:
    """Methods in use, newest version of each, lots and instruments."""
    wanted = request.GET.get("method", "")[:80]
    versions = MethodVersion.objects.of(request.programme).newest()
    context: dict[str, Any] = {
        "wanted": wanted,
        "versions": [one for one in versions if fits(one.method, wanted)],
        "not_in_use": [one for one in shipped_not_in_use(request.programme) if fits(one, wanted)],
    }
    if request.htmx.target == "found-methods":
        return render(request, "library/methods.html", context)
    context |= {
        "updates": updates(request.programme),
        "lots": Lot.objects.of(request.programme).order_by("reagent", "-opened"),
        "instruments": Instrument.objects.of(request.programme).order_by("-in_use", "name", "pk"),
        "today": timezone.localdate(),
    }
    return render(request, "library/index.html", context)


@needs(Permission.VIEW)
def method(request: ProgrammeRequest, method_id: str, number: str) -> HttpResponse:
    """One version: what it asks, what it reckons with, its document."""
    versions = MethodVersion.objects.of(request.programme).filter(method_id=method_id)
    found = get_object_or_404(versions.numbered(number))
    context = {
        "version": found,
        "newest": versions.newest().get(),
        "method": found.method,
        "instruments": instruments_of([found.method]),
        "waste": [(part, request.programme.waste.get(part.route)) for part in found.method.waste],
    }
    return render(request, "library/method.html", context)


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
