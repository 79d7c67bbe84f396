"""A programme's own choices on a method, and newer versions of shipped ones."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from kessa.library.choices import ChoicesForm
from kessa.library.models import MethodVersion
from kessa.library.services import follow, update, updates
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data
from kessa_core.methods.local_settings import BadChoice


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
