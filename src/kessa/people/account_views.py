"""One's own account: name, password, one-time codes, devices, leaving."""

from typing import Any

from django.contrib.auth import logout, update_session_auth_hash
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import never_cache
from django.views.decorators.debug import sensitive_post_parameters
from django.views.decorators.http import require_POST

from kessa.people import devices, leaving, members, two_factor
from kessa.people.device_tokens import revoke, revoke_all
from kessa.people.forms import FactorForm, NameForm, OwnPasswordForm, PasswordForm
from kessa.people.models import DeviceSession, DeviceToken
from kessa.people.notices import What, note_change
from kessa.people.services import rename
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Membership
from kessa.platform.permissions import SECOND_FACTOR, signed_in
from kessa.platform.requests import SignedInRequest
from kessa.ui.form_data import form_data

LISTED = 12
"""Devices that may still send, before the rest is only counted."""


@signed_in
def account(request: SignedInRequest) -> HttpResponse:
    """Everything about oneself on one page."""
    return _page(request)


@require_POST
@signed_in
def name(request: SignedInRequest) -> HttpResponse:
    """The name that results show."""
    form = NameForm(request.POST)
    if not form.is_valid():
        return _page(request, name_form=form)
    rename(request.user, form.cleaned_data["shown_name"])
    return redirect("account")


@sensitive_post_parameters("old", "new")
@require_POST
@signed_in
def password(request: SignedInRequest) -> HttpResponse:
    """A new password; every other device is signed out."""
    form = PasswordForm(request.POST, request.user)
    if not form.is_valid():
        return _page(request, password_form=form)
    request.user.set_password(form.cleaned_data["new"])
    request.user.save(update_fields=["password"])
    devices.end_all(request.user, but=request.session.session_key)
    revoke_all(request.user)
    update_session_auth_hash(request, request.user)
    devices.note_sign_in(request, request.user)
    note_change(request, request.user, What.PASSWORD)
    return redirect("account")


@require_POST
@signed_in
def sign_out_device(request: SignedInRequest, sign_in_id: int) -> HttpResponse:
    """Sign one device out."""
    devices.end(get_object_or_404(DeviceSession.objects.for_person(request.user), pk=sign_in_id))
    return redirect("account")


@require_POST
@signed_in
def revoke_device(request: SignedInRequest, capability_id: int) -> HttpResponse:
    """A device may no longer send acts after its sign-in has expired."""
    mine = DeviceToken.objects.for_person(request.user).active()
    revoke(get_object_or_404(mine, pk=capability_id), request.user)
    return redirect("account")


@require_POST
@signed_in
def revoke_every_device(request: SignedInRequest) -> HttpResponse:
    """No device may send any more without a sign-in."""
    revoke_all(request.user)
    return redirect("account")


@sensitive_post_parameters("password")
@never_cache
@signed_in
def codes(request: SignedInRequest) -> HttpResponse:
    """Turn one-time codes on: picture, secret, and the first code to prove it works."""
    form = FactorForm(form_data(request), request.user)
    if request.method == "POST" and form.is_valid():
        spare = two_factor.confirm(request.user, form.cleaned_data["token"])
        if spare:
            request.session[SECOND_FACTOR] = True
            note_change(request, request.user, What.CODES_ON)
            return render(request, "people/backup_codes.html", {"codes": spare})
        form.add_error(
            "token", "This code is wrong or has expired. Wait for the next one and try again."
        )
    device = two_factor.begin(request.user)
    context = {
        "form": form,
        "secret": two_factor.secret_of(device),
        "picture": two_factor.picture_of(device.config_url),
        "wanted_by": _wanted_by(request),
    }
    return render(request, "people/codes.html", context, status=422 if form.errors else 200)


def _wanted_by(request: SignedInRequest) -> str:
    """A programme of this person that asks for a second factor which is not there yet."""
    mine = Membership.objects.for_person(request.user).active()
    asking = mine.filter(programme__second_factor=True).values_list("programme__name", flat=True)
    return "" if request.session.get(SECOND_FACTOR) else asking.first() or ""


@sensitive_post_parameters("password")
@require_POST
@signed_in
def codes_off(request: SignedInRequest) -> HttpResponse:
    """Turn one-time codes off; the password is asked once more."""
    form = OwnPasswordForm(request.POST, request.user, "codes")
    if not form.is_valid():
        return _page(request, codes_form=form)
    two_factor.forget_devices(request.user)
    request.session.pop(SECOND_FACTOR, None)
    note_change(request, request.user, What.CODES_OFF)
    return redirect("account")


@require_POST
@signed_in
def leave(request: SignedInRequest, membership_id: int) -> HttpResponse:
    """Leave a programme; what one did there stays."""
    mine = Membership.objects.for_person(request.user).active()
    found = get_object_or_404(mine, pk=membership_id)
    try:
        members.withdraw(found, request.user)
    except ActionNotAllowed as refusal:
        return _page(request, leave_wrong=str(refusal))
    return redirect("account")


@sensitive_post_parameters("password")
@require_POST
@signed_in
def leave_for_good(request: SignedInRequest) -> HttpResponse:
    """Take one's name off everything and close the account."""
    form = OwnPasswordForm(request.POST, request.user, "close")
    if not form.is_valid():
        return _page(request, close_form=form)
    try:
        leaving.pseudonymise(request.user, request.user)
    except ActionNotAllowed as refusal:
        form.add_error("password", str(refusal))
        return _page(request, close_form=form)
    logout(request)
    return redirect("sign-in")


def _page(request: SignedInRequest, **more: Any) -> HttpResponse:
    capabilities = list(DeviceToken.objects.for_person(request.user).active().order_by("-made_at"))
    context = {
        "name_form": NameForm(initial={"shown_name": request.user.shown_name}),
        "password_form": PasswordForm(None, request.user),
        "codes_form": OwnPasswordForm(None, request.user, "codes"),
        "close_form": OwnPasswordForm(None, request.user, "close"),
        "codes_on": two_factor.is_on(request.user),
        "sign_ins": DeviceSession.objects.for_person(request.user),
        "changes": request.user.credential_changes.all()[:5],
        "this_session": request.session.session_key,
        "capabilities": capabilities[:LISTED],
        "more_capabilities": max(0, len(capabilities) - LISTED),
        "memberships": Membership.objects.for_person(request.user)
        .active()
        .order_by("programme__name"),
        **more,
    }
    return render(request, "people/account.html", context, status=422 if more else 200)
