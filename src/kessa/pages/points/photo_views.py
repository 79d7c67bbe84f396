"""A photograph of a point, with a mark where the sample is taken."""

import hashlib

from django import forms
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from kessa.photos.services import keep_photograph
from kessa.places.models import Point
from kessa.places.services import change_point
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data

LARGEST = 15_000_000
"""Bytes."""


class PictureForm(forms.Form):
    """A photograph of the place."""

    picture = forms.FileField(
        label="Photograph",
        help_text="Your phone’s position is removed from it.",
        error_messages={"required": "Choose a photograph."},
    )

    def clean_picture(self) -> bytes:
        sent = self.cleaned_data["picture"]
        if sent.size > LARGEST:
            raise forms.ValidationError("This photograph is too large: at most 15 MB.")
        return bytes(sent.read())


class MarkForm(forms.Form):
    """Where in the photograph the sample is taken, in per cent."""

    across = forms.FloatField(min_value=0, max_value=100, label="From the left, %")
    down = forms.FloatField(min_value=0, max_value=100, label="From the top, %")


@needs(Permission.TEST)
def point_photo(request: ProgrammeRequest, point_id: int) -> HttpResponse:
    """Take or change the photograph; set or move its mark; take both away."""
    point = get_object_or_404(Point.objects.of(request.programme), pk=point_id)
    does = request.POST.get("do", "") if request.method == "POST" else ""
    form = PictureForm(form_data(request) if does == "picture" else None, request.FILES or None)
    middle = {"across": (point.mark or ("50",))[0], "down": (point.mark or ("", "50"))[1]}
    mark = MarkForm(form_data(request) if does == "mark" else None, initial=middle)
    here = redirect("point-photo", programme=request.programme.slug, point_id=point.pk)
    try:
        if does == "picture" and form.is_valid():
            given = form.cleaned_data["picture"]
            key = hashlib.sha256(given).hexdigest()
            keep_photograph(request.programme, request.user, key, given)
            change_point(point, request.user, photo=key, mark_x=None, mark_y=None)
            return here
    except ActionNotAllowed as refusal:
        form.add_error("picture", str(refusal))
    if does == "mark" and point.photo and mark.is_valid():
        said = mark.cleaned_data
        x, y = round(said["across"] * 10), round(said["down"] * 10)
        change_point(point, request.user, mark_x=x, mark_y=y)
        return redirect("point", programme=request.programme.slug, point_id=point.pk)
    if does == "remove":
        change_point(point, request.user, photo="", mark_x=None, mark_y=None)
        return here
    context = {"point": point, "form": form, "mark": mark}
    return render(request, "points/point_photo.html", context, status=422 if does else 200)
