"""Limit sets: one with all its limits, its file, two beside each other, and where it applies."""

from typing import Any

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.core.validators import validate_slug
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from kessa.flows.limits import change_limits
from kessa.pages.limits.forms import AttachForm
from kessa.pages.limits.queries import applied, results_changing
from kessa.places.limit_drafts import begin_copy
from kessa.places.limit_sets import find_set, misfit, sets_known
from kessa.places.models import OwnLimitSet
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data
from kessa.verdicts.preview import preview
from kessa_core.drafts.problems import text_of
from kessa_core.errors import UnknownName
from kessa_core.judging import LimitSet
from kessa_core.judging.editions import compare
from kessa_core.judging.schema import text as schema_text


def found_set(request: ProgrammeRequest, set_id: str) -> LimitSet:
    """The set with this key. Raises Http404."""
    try:
        validate_slug(set_id)
        return find_set(request.programme.pk, set_id)
    except (UnknownName, ValidationError):
        raise Http404(f"There is no limit set {set_id}.") from None


@needs(Permission.VIEW)
def limit_set(request: ProgrammeRequest, set_id: str) -> HttpResponse:
    """One set: what it says, where it applies, its editions, and what can be done with it."""
    held = found_set(request, set_id)
    own = OwnLimitSet.objects.of(request.programme).filter(set_id=set_id).first()
    editions = OwnLimitSet.objects.of(request.programme).filter(family=own.family) if own else []
    where = applied(request.programme)
    context = {
        "held": held,
        "own": own,
        "editions": [one for one in editions if own and own.family and one.pk != own.pk],
        "waters": where.waters.get(set_id, []),
        "points": where.points.get(set_id, []),
        "others": [one for one in sets_known(request.programme) if one.id != set_id],
    }
    return render(request, "limits/set.html", context)


@needs(Permission.VIEW)
def set_file(request: ProgrammeRequest, set_id: str) -> HttpResponse:
    """The set as its document."""
    held = found_set(request, set_id)
    text = text_of(held.model_dump(mode="json", exclude_defaults=True))
    answer = HttpResponse(text, content_type="application/yaml; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{held.id}.yaml"'
    return answer


@needs(Permission.VIEW)
def schema(request: ProgrammeRequest) -> HttpResponse:
    """What a limit set's document may say, as JSON Schema."""
    return HttpResponse(schema_text(), content_type="application/schema+json; charset=utf-8")


@needs(Permission.VIEW)
def compared(request: ProgrammeRequest, set_id: str) -> HttpResponse:
    """What differs between two sets or editions."""
    newer = found_set(request, set_id)
    older = found_set(request, request.GET.get("with", ""))
    context = {"older": older, "newer": newer, "changes": compare(older, newer)}
    return render(request, "limits/compare.html", context)


@needs(Permission.MANAGE)
@require_POST
def copy(request: ProgrammeRequest, set_id: str) -> HttpResponse:
    """A draft that begins with what the set says."""
    found_set(request, set_id)
    draft = begin_copy(request.programme, request.user, set_id)
    return redirect("limit-draft", programme=request.programme.slug, draft_id=draft.pk)


@needs(Permission.MANAGE)
def attach(request: ProgrammeRequest, set_id: str) -> HttpResponse:
    """Where the set is to apply from which day on; first what would change, then it is done."""
    held = found_set(request, set_id)
    form = AttachForm(form_data(request), request.programme)
    context: dict[str, Any] = {"held": held, "form": form}
    is_sent = request.method == "POST"
    if is_sent and form.is_valid():
        places, begin = form.places, form.begin
        if request.POST.get("do") == "attach":
            for water, point in places:
                change_limits(water, request.user, held.id, begin, point)
            told = "From now on this set applies there."
            if begin:
                told = "This set applies there. Results since that day are being compared with it."
            messages.success(request, told)
            return redirect("limit-set", programme=request.programme.slug, set_id=held.id)
        waters = {water for water, _ in places}
        context["misfits"] = [why for water in waters if (why := misfit(water, held))]
        seen = [preview(water, held.id, begin, point) for water, point in places] if begin else []
        context["previews"] = [(one, results_changing(request.programme, one)) for one in seen]
        context["is_looked_at"] = True
    status = 422 if is_sent and not form.is_valid() else 200
    return render(request, "limits/attach.html", context, status=status)
