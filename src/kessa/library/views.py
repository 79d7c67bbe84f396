"""The library: methods in use and their documents."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render

from kessa.library.models import Lot, MethodVersion
from kessa.permissions import Permission, needs


@needs(Permission.VIEW)
def index(request: HttpRequest) -> HttpResponse:
    """Methods in use, newest version of each, and the lots."""
    context = {
        "versions": MethodVersion.objects.of(request.programme).newest(),
        "lots": Lot.objects.of(request.programme).order_by("reagent", "-opened"),
    }
    return render(request, "library/index.html", context)


@needs(Permission.VIEW)
def method(request: HttpRequest, method_id: str, version: int) -> HttpResponse:
    """One version: what it asks, what it reckons with, its document."""
    found = get_object_or_404(
        MethodVersion.objects.of(request.programme), method_id=method_id, version=version
    )
    return render(request, "library/method.html", {"version": found, "method": found.method})
