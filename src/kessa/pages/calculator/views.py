"""The calculator: finding a calculation by what one wants to know, and working it out. Nothing of
it enters the record."""

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from kessa.pages.calculator.fields import MOST_TYPED, fields_of
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa_core.calculations import Calculation, calculations
from kessa_core.calculations.uncertain import work_out
from kessa_core.errors import CoreError


@needs(Permission.VIEW)
@require_GET
def index(request: ProgrammeRequest) -> HttpResponse:
    """Every calculation whose words hold all that was asked for."""
    asked = request.GET.get("q", "")[:80]
    words = asked.lower().split()
    found = [one for one in calculations().values() if _holds(one, words)]
    listed = [
        (one.name, one.about, ", ".join(given.about for given in one.given))
        for one in sorted(found, key=lambda one: one.about)
    ]
    context = {"asked": asked, "found": listed}
    return render(request, "calculator/index.html", context)


@needs(Permission.VIEW)
@require_GET
def calculation(request: ProgrammeRequest, name: str) -> HttpResponse:
    """One calculation; its inputs stand in the address, so that it can be filled from elsewhere and
    sent to others."""
    found = calculations().get(name)
    if found is None:
        raise Http404(f"There is no calculation {name}.")
    keys = [given.name for given in found.given]
    typed = {key: str(request.GET.get(key, ""))[:MOST_TYPED] for key in keys}
    context: dict[str, object] = {"title": found.about.rstrip("."), "source": found.source}
    wrong_field = ""
    if any(text.strip() for text in typed.values()):
        try:
            context["worked"] = work_out(name, typed)
        except CoreError as wrong:
            wrong_field = wrong.field or ""
            context["wrong"] = str(wrong)
    context["fields"] = fields_of(found, typed, wrong_field)
    status = 422 if "wrong" in context else 200
    return render(request, "calculator/calculation.html", context, status=status)


def _holds(one: Calculation, words: list[str]) -> bool:
    about = " ".join(
        [one.about, one.name, *(f"{given.about} {given.unit}" for given in one.given),
         *(f"{gives.about} {one.unit_of(key)}" for key, gives in one.gives.items())]
    ).lower()  # fmt: skip
    return all(word in about for word in words)
