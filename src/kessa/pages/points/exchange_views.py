"""Points out as GeoJSON and CSV, and in from either."""

from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render

from kessa.places.exchange import bring_points, planned_points
from kessa.places.models import Water
from kessa.places.parts import PARTS
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa_core.errors import CoreError
from kessa_core.exchange import as_csv, as_geojson, read_points
from kessa_core.exchange.points import COLUMNS, PlannedPoint

MOST_BYTES = 1_000_000


class FileForm(forms.Form):
    """A file of points, or what is in one."""

    file = forms.FileField(required=False, label="GeoJSON or CSV file")
    text = forms.CharField(
        required=False, max_length=MOST_BYTES, label="Or paste it here", widget=forms.Textarea
    )

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        sent = data.get("file")
        if sent and sent.size > MOST_BYTES:
            raise forms.ValidationError("The file is larger than 1 MB.")
        text = _text(sent) if sent else data.get("text", "")
        if not text.strip():
            raise forms.ValidationError("Choose a file, or paste what is in it.")
        try:
            data["points"] = read_points(text, Water.Kind.values, list(PARTS))
        except CoreError as error:
            raise forms.ValidationError(str(error)) from None
        return data


def _text(sent: Any) -> str:
    try:
        return str(sent.read().decode("utf-8-sig"))
    except UnicodeDecodeError:
        raise forms.ValidationError("The file is not UTF-8 text.") from None


@needs(Permission.MANAGE)
def bring(request: ProgrammeRequest) -> HttpResponse:
    """Points from a file: added, or changed where they are there."""
    is_sent = request.method == "POST"
    form = FileForm(request.POST, request.FILES) if is_sent else FileForm()
    if is_sent and form.is_valid():
        points: list[PlannedPoint] = form.cleaned_data["points"]
        messages.success(request, bring_points(request.programme, request.user, points).words)
        return redirect("waters", programme=request.programme.slug)
    context = {"form": form, "columns": COLUMNS}
    return render(request, "points/bring.html", context, status=422 if form.errors else 200)


@needs(Permission.VIEW)
def geojson(request: ProgrammeRequest) -> HttpResponse:
    """Every point as GeoJSON."""
    text = as_geojson(planned_points(request.programme))
    return _file(request, text, "application/geo+json", "geojson")


@needs(Permission.VIEW)
def points_csv(request: ProgrammeRequest) -> HttpResponse:
    """Every point as CSV."""
    return _file(request, as_csv(planned_points(request.programme)), "text/csv", "csv")


def _file(request: ProgrammeRequest, text: str, kind: str, ending: str) -> HttpResponse:
    answer = HttpResponse(text, content_type=f"{kind}; charset=utf-8")
    name = f"{request.programme.slug}-points.{ending}"
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer
