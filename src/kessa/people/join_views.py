"""Joining with a code: the code, then as whom."""

from django.contrib.auth import login
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.cache import never_cache
from django.views.decorators.debug import sensitive_post_parameters

from kessa.people import throttle
from kessa.people.devices import note_sign_in
from kessa.people.forms import AccountForm, CodeForm
from kessa.people.members import invitation_of
from kessa.people.members import join as join_programme
from kessa.people.models import Invitation
from kessa.people.services import make_person
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Person
from kessa.platform.permissions import public
from kessa.ui.form_data import form_data

UNKNOWN = "This code is wrong or has already been used. Check it, or ask for a new one."


@never_cache
@public
def join(request: HttpRequest) -> HttpResponse:
    """Type the code; a picture of it fills it in, from the part of the address that no server and
    no log ever sees."""
    form = CodeForm(form_data(request))
    status = 200
    if request.method == "POST":
        status = 422
        try:
            throttle.count(f"join:{throttle.address(request)}", 30, 15 * 60)
            found = invitation_of(form.cleaned_data["code"]) if form.is_valid() else None
            if found:
                request.session["invitation"] = found.hash
                return redirect("join-as")
            if form.is_valid():
                form.add_error("code", UNKNOWN)
        except throttle.TooOften as full:
            form.add_error("code", str(full))
    return render(request, "people/join.html", {"form": form}, status=status)


@sensitive_post_parameters("password")
@never_cache
@public
def join_as(request: HttpRequest) -> HttpResponse:
    """Join as the person who is signed in, or with a new account."""
    invitation = _remembered(request)
    if invitation is None:
        return redirect("join")
    form = AccountForm(form_data(request))
    wrong = ""
    if request.method == "POST":
        try:
            person = _person(request, form)
            if person:
                join_programme(invitation, person)
                request.session.pop("invitation", None)
                return redirect("today", programme=invitation.programme.slug)
        except ActionNotAllowed as refusal:
            wrong = str(refusal)
    context = {"invitation": invitation, "form": form, "wrong": wrong}
    status = 422 if wrong or (request.method == "POST" and form.errors) else 200
    return render(request, "people/join_as.html", context, status=status)


def _remembered(request: HttpRequest) -> Invitation | None:
    found = Invitation.objects.open().select_related("programme", "made_by")
    return found.filter(hash=request.session.get("invitation", "")).first()


def _person(request: HttpRequest, form: AccountForm) -> Person | None:
    """Who joins: the one who is signed in, or a new account that is signed in now."""
    if request.user.is_authenticated:
        return request.user
    if not form.is_valid():
        return None
    said = form.cleaned_data
    person = make_person(said["username"], said["password"], said["shown_name"])
    login(request, person, backend="django.contrib.auth.backends.ModelBackend")
    note_sign_in(request, person)
    return person
