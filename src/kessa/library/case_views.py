"""Adding a case and changing what is in it."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from kessa.library.case_forms import CaseForm
from kessa.library.cases import change_case, make_case
from kessa.library.models import KitCase
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data


@needs(Permission.TEST)
def new_case(request: ProgrammeRequest) -> HttpResponse:
    """Add a case."""
    return _asked(request, None)


@needs(Permission.TEST)
def edit_case(request: ProgrammeRequest, case_id: int) -> HttpResponse:
    """Change a case: who has it, what is in it."""
    return _asked(request, get_object_or_404(KitCase.objects.of(request.programme), pk=case_id))


def _asked(request: ProgrammeRequest, case: KitCase | None) -> HttpResponse:
    form = CaseForm(form_data(request), request.programme, case)
    if request.method == "POST" and form.is_valid():
        if case is None:
            make_case(request.programme, request.user, **form.described())
        else:
            change_case(case, request.user, **form.described())
        return redirect("library", programme=request.programme.slug)
    context = {"form": form, "case": case}
    status = 422 if form.errors else 200
    return render(request, "library/case_form.html", context, status=status)
