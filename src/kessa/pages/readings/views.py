"""The queue of photographs to read, reading one, and the photographs themselves."""

from django.http import FileResponse, Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_POST

from kessa.flows.photographs import ask_again, read_photograph, set_aside, to_read
from kessa.pages.readings.forms import PhotoForm
from kessa.photos.models import Photograph
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.results.models import Result
from kessa.runs.models import PhotoReading
from kessa.ui.form_data import form_data

A_YEAR_S = 31_536_000


@needs(Permission.VIEW)
def waiting(request: ProgrammeRequest) -> HttpResponse:
    """Every photograph that waits to be read, the oldest first."""
    rows = list(PhotoReading.objects.of(request.programme).waiting().with_tests())
    sent = _sent(request, rows)
    listed = [
        {
            "row": row,
            "what": to_read(row),
            "sent": row.photo in sent,
            "own": row.wanted == row.Wanted.SECOND and row.read_by_id == request.user.pk,
        }
        for row in rows
    ]
    return render(request, "readings/waiting.html", {"listed": listed})


@needs(Permission.TEST)
def read(request: ProgrammeRequest, reading_id: int) -> HttpResponse:
    """Read one; what somebody else read of it is not shown."""
    rows = PhotoReading.objects.of(request.programme).waiting_for(request.user).with_tests()
    row = get_object_or_404(rows, pk=reading_id)
    what = to_read(row)
    form = PhotoForm(form_data(request), what.scale)
    if request.method == "POST" and form.is_valid():
        try:
            if why := form.cleaned_data["unreadable"]:
                set_aside(row, request.user, why)
            else:
                said = form.cleaned_data["raw"]
                read_photograph(row, request.user, said, sure=form.cleaned_data["sure"])
        except ActionNotAllowed as refusal:
            form.add_error(None, str(refusal))
        else:
            return redirect("readings", request.programme.slug)
    context = {
        "row": row,
        "what": what,
        "form": form,
        "sent": row.photo in _sent(request, [row]),
    }
    status = 422 if form.errors else 200
    return render(request, "readings/read.html", context, status=status)


@require_POST
@needs(Permission.TEST)
def again(request: ProgrammeRequest, reading_id: int) -> HttpResponse:
    """Ask for a second reading of a photograph that was read; back to its result."""
    rows = PhotoReading.objects.of(request.programme).with_tests()
    row = get_object_or_404(rows, pk=reading_id)
    try:
        ask_again(row, request.user)
    except ActionNotAllowed as refusal:
        return render(request, "readings/not_again.html", {"why": str(refusal)}, status=409)
    results = Result.objects.of(request.programme).filter(run=row.run_id).order_by("pk")
    found = results.filter(stage__in=("", to_read(row).stage.id)).first()
    if found is None:
        return redirect("readings", request.programme.slug)
    return redirect("result", request.programme.slug, found.pk)


@require_GET
@cache_control(private=True, max_age=A_YEAR_S, immutable=True)
@needs(Permission.VIEW)
def photograph(request: ProgrammeRequest, key: str) -> FileResponse:
    """The picture, to members of its programme alone."""
    found = get_object_or_404(Photograph.objects.of(request.programme), key=key)
    try:
        file = found.path.open("rb")
    except OSError:
        raise Http404 from None
    return FileResponse(file, content_type="image/jpeg")


def _sent(request: ProgrammeRequest, rows: list[PhotoReading]) -> set[str]:
    """The photographs of these that the server has; an act can arrive before its picture."""
    kept = Photograph.objects.of(request.programme).filter(key__in=[row.photo for row in rows])
    return set(kept.values_list("key", flat=True))
