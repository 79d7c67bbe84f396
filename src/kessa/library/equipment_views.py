"""Noting an instrument, its checks, and changing what is noted of it."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from kessa.library.equipment import change_instrument, note_check, note_instrument
from kessa.library.instrument_forms import CheckForm, InstrumentForm
from kessa.library.models import Instrument, Lot
from kessa.library.services import methods_of
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data


@needs(Permission.TEST)
def new_instrument(request: ProgrammeRequest) -> HttpResponse:
    """Note an instrument."""
    form = InstrumentForm(form_data(request), methods_of(request.programme))
    if request.method == "POST" and form.is_valid():
        note_instrument(request.programme, request.user, **form.cleaned_data)
        return redirect("library", programme=request.programme.slug)
    status = 422 if form.errors else 200
    return render(request, "library/instrument_form.html", {"form": form}, status=status)


@needs(Permission.TEST)
def check_instrument(request: ProgrammeRequest, instrument_id: int) -> HttpResponse:
    """Record a verification, a calibration or a service."""
    found = get_object_or_404(Instrument.objects.of(request.programme), pk=instrument_id)
    lots = list(Lot.objects.of(request.programme).in_stock())
    form = CheckForm(form_data(request), lots)
    if request.method == "POST" and form.is_valid():
        note_check(found, request.user, **form.cleaned_data)
        return redirect("instrument", request.programme.slug, found.pk)
    context = {"form": form, "instrument": found}
    status = 422 if form.errors else 200
    return render(request, "library/check_form.html", context, status=status)


@needs(Permission.TEST)
def edit_instrument(request: ProgrammeRequest, instrument_id: int) -> HttpResponse:
    """Note another check of an instrument, or that it is out of use."""
    found = get_object_or_404(Instrument.objects.of(request.programme), pk=instrument_id)
    form = InstrumentForm(form_data(request), methods_of(request.programme), found)
    if request.method == "POST" and form.is_valid():
        change_instrument(found, request.user, **form.cleaned_data)
        return redirect("instrument", request.programme.slug, found.pk)
    context = {"form": form, "instrument": found}
    status = 422 if form.errors else 200
    return render(request, "library/instrument_form.html", context, status=status)
