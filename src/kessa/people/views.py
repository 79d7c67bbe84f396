"""Signing in and out, and the way to one's own programme."""

from typing import Any

from django.contrib.auth import login, logout
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.cache import never_cache
from django.views.decorators.debug import sensitive_post_parameters
from django.views.decorators.http import require_POST

from kessa.people import throttle, two_factor
from kessa.people.devices import note_sign_in
from kessa.people.forms import ForgottenForm, ProgrammeForm, SignInForm, TokenForm
from kessa.people.known_devices import account_key, remember, sign_in_limits
from kessa.people.models import DeviceSession
from kessa.people.notices import What, note_change, tell_changes
from kessa.people.passwords import use_code
from kessa.people.services import found, free_slug
from kessa.people.strength import strength_of
from kessa.platform import clock
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Membership, Person
from kessa.platform.permissions import SECOND_FACTOR, public, signed_in
from kessa.platform.requests import SignedInRequest
from kessa.platform.security_log import note, note_request
from kessa.ui.form_data import form_data

CODE_TRIES = 10
LONGEST = 200
"""Characters of a password that are looked at while it is typed."""
HALF_WAY = 10 * 60
"""Seconds between the password and the one-time code."""


@sensitive_post_parameters("password")
@never_cache
@public
def sign_in(request: HttpRequest) -> HttpResponse:
    """Name and password; then the one-time code, for those who use one."""
    if request.user.is_authenticated:
        return redirect("home")
    form = SignInForm(request, form_data(request))
    if request.method != "POST":
        return _sign_in_page(request, form)
    keys = sign_in_limits(request, request.POST.get("username", ""))
    try:
        for key, most in keys:
            throttle.refuse_when_full(key, most)
        if not form.is_valid():
            for key, most in keys:
                throttle.count(key, most, throttle.WINDOW)
            note("sign-in refused", _named(request))
            return _sign_in_page(request, form, 422)
    except throttle.TooOften as full:
        note("sign-in slowed down", _named(request))
        form.errors.clear()
        form.add_error(None, str(full))
        return _sign_in_page(request, form, 429)
    person = form.get_user()
    throttle.forget(keys[0][0])
    if not two_factor.is_on(person):
        return _let_in(request, person, request.POST.get("next", ""))
    request.session["half"] = {
        "person": person.pk,
        "at": clock.now().timestamp(),
        "next": request.POST.get("next", ""),
    }
    return redirect("sign-in-code")


@sensitive_post_parameters()
@never_cache
@require_POST
@public
def password_strength(request: HttpRequest) -> HttpResponse:
    """How hard the password that is being typed would be to guess; nothing of it stays."""
    typed = request.POST.get("new") or request.POST.get("password", "")
    person = request.user if request.user.is_authenticated else Person()
    strength = strength_of(typed[:LONGEST], person) if typed else None
    return render(request, "people/strength.html", {"strength": strength})


@never_cache
@public
def sign_in_code(request: HttpRequest) -> HttpResponse:
    """The second step: a one-time code, or a spare one."""
    half = request.session.get("half")
    if not half or clock.now().timestamp() - half["at"] > HALF_WAY:
        return redirect("sign-in")
    person = Person.objects.get(pk=half["person"])
    form = TokenForm(form_data(request))
    status = 200
    if request.method == "POST":
        status = 422
        try:
            throttle.count(f"code:{person.pk}", CODE_TRIES, throttle.WINDOW)
            if form.is_valid() and two_factor.verify(person, form.cleaned_data["token"]):
                throttle.forget(f"code:{person.pk}")
                request.session.pop("half")
                request.session[SECOND_FACTOR] = True
                return _let_in(request, person, half["next"])
            note("code refused", person)
            form.add_error(
                None,
                "This code is wrong or has expired. Wait for the next one, or use a backup code.",
            )
        except throttle.TooOften as full:
            form.add_error(None, str(full))
    return render(request, "people/sign_in_code.html", {"form": form}, status=status)


@sensitive_post_parameters("password", "code")
@never_cache
@public
def forgotten(request: HttpRequest) -> HttpResponse:
    """A new password with a manager's code."""
    form = ForgottenForm(form_data(request))
    status = 200
    if request.method == "POST":
        status = 422
        try:
            throttle.count(f"forgotten:{throttle.address(request)}", 20, throttle.WINDOW)
            if form.is_valid():
                said = form.cleaned_data
                person = use_code(said["username"].strip(), said["code"], said["password"])
                note_change(request, person, What.RESET)
                return render(request, "people/password_set.html")
        except (throttle.TooOften, ActionNotAllowed) as refusal:
            form.add_error(None, str(refusal))
        except ValidationError as weak:
            form.add_error("password", weak)
    return render(request, "people/forgotten.html", {"form": form}, status=status)


@require_POST
@public
def sign_out(request: HttpRequest) -> HttpResponse:
    """Acts that wait on the device stay there."""
    DeviceSession.objects.filter(session_key=request.session.session_key).delete()
    note_request("signed out", request)
    logout(request)
    return redirect("sign-in")


@signed_in
def home(request: HttpRequest) -> HttpResponse:
    """On to Today of the person's programme; a choice when there are several."""
    memberships = _memberships(request)
    if len(memberships) == 1:
        return redirect("today", programme=memberships[0].programme.slug)
    return render(request, "people/programmes.html", {"memberships": memberships})


@signed_in
def programmes(request: HttpRequest) -> HttpResponse:
    """Every programme of the person, and a new one."""
    return render(request, "people/programmes.html", {"memberships": _memberships(request)})


@signed_in
def new_programme(request: SignedInRequest) -> HttpResponse:
    """Begin a programme of one's own."""
    form = ProgrammeForm(form_data(request))
    if request.method == "POST" and form.is_valid():
        said = form.cleaned_data
        made = found(said["name"], free_slug(said["name"]), said["timezone"], request.user)
        return redirect("today", programme=made.slug)
    return render(
        request, "people/new_programme.html", {"form": form}, status=422 if form.errors else 200
    )


def _memberships(request: HttpRequest) -> list[Any]:
    mine = Membership.objects.for_person(request.user).active()
    return list(mine.order_by("programme__name"))


def _named(request: HttpRequest) -> Person | None:
    """The account that somebody tries to sign in with, if there is one."""
    name = account_key(request.POST.get("username", ""))
    return Person.objects.filter(username__iexact=name).first() if name else None


def _sign_in_page(request: HttpRequest, form: SignInForm, status: int = 200) -> HttpResponse:
    wanted = request.POST.get("next") or request.GET.get("next", "")
    context = {"form": form, "next": wanted}
    return render(request, "people/sign_in.html", context, status=status)


def _let_in(request: HttpRequest, person: Person, wanted: str) -> HttpResponse:
    login(request, person, backend="django.contrib.auth.backends.ModelBackend")
    note_sign_in(request, person)
    note("signed in", person)
    tell_changes(request, person)
    hosts = {request.get_host()}
    safe = url_has_allowed_host_and_scheme(wanted, hosts, require_https=request.is_secure())
    response = redirect(wanted if safe and wanted.startswith("/") else reverse("home"))
    remember(response, person)
    return response
