"""The library: methods in use and their documents."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from kessa.bench.instruments import instruments_of
from kessa.library.forms import LotForm
from kessa.library.models import Lot, MethodVersion
from kessa.library.services import note_lot, on_the_shelf
from kessa.permissions import Permission, needs
from kessa.ui.posted import posted


@needs(Permission.VIEW)
def index(request: HttpRequest) -> HttpResponse:
    """Methods in use, newest version of each, and the lots."""
    context = {
        "versions": MethodVersion.objects.of(request.programme).newest(),
        "shelf": on_the_shelf(request.programme),
        "lots": Lot.objects.of(request.programme).order_by("reagent", "-opened"),
    }
    return render(request, "library/index.html", context)


@needs(Permission.VIEW)
def method(request: HttpRequest, method_id: str, version: int) -> HttpResponse:
    """One version: what it asks, what it reckons with, its document."""
    found = get_object_or_404(
        MethodVersion.objects.of(request.programme), method_id=method_id, version=version
    )
    context = {
        "version": found,
        "method": found.method,
        "instruments": instruments_of([found.method]),
    }
    return render(request, "library/method.html", context)


@needs(Permission.TEST)
def new_lot(request: HttpRequest) -> HttpResponse:
    """Note a lot."""
    newest = MethodVersion.objects.of(request.programme).newest()
    form = LotForm(posted(request), [version.method for version in newest])
    if request.method == "POST" and form.is_valid():
        note_lot(request.programme, request.user, **form.cleaned_data)
        return redirect("library", programme=request.programme.slug)
    return render(
        request, "library/new_lot.html", {"form": form}, status=422 if form.errors else 200
    )
