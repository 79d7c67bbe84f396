"""The people of a programme: members, invitations, roles, and the programme's settings."""

from collections.abc import Callable
from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_POST

from kessa.people import leaving, members, passwords, two_factor
from kessa.people.forms import InviteForm, RoleForm, SamplingSettingsForm, SettingsForm
from kessa.people.models import Invitation
from kessa.people.services import change_settings
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Membership
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.ui.form_data import form_data


@needs(Permission.VIEW)
def people(request: ProgrammeRequest) -> HttpResponse:
    """Who belongs, who is invited, who has left."""
    every = Membership.objects.filter(programme=request.programme).select_related("person")
    every = every.order_by("person__shown_name", "person__username")
    context = {
        "active": [m for m in every if m.ended_at is None],
        "former": [m for m in every if m.ended_at],
        "invitations": Invitation.objects.of(request.programme).open().order_by("-made_at"),
        "form": InviteForm(initial={"role": "monitor"}),
    }
    return render(request, "people/people.html", context)


@never_cache
@require_POST
@needs(Permission.MANAGE)
def invite(request: ProgrammeRequest) -> HttpResponse:
    """Make an invitation; its code is on the page this once, to print or read out."""
    form = InviteForm(request.POST)
    if not form.is_valid():
        return redirect("people", programme=request.programme.slug)
    said = form.cleaned_data
    made, code = members.invite(request.programme, request.user, said["role"], said["note"])
    address = request.build_absolute_uri(reverse("join"))
    context = {
        "invitation": made,
        "code": code,
        "address": address,
        "picture": two_factor.picture_of(f"{address}#code={code}"),
    }
    return render(request, "people/invitation.html", context)


@require_POST
@needs(Permission.MANAGE)
def withdraw_invitation(request: ProgrammeRequest, invitation_id: int) -> HttpResponse:
    """The code stops working."""
    found = get_object_or_404(Invitation.objects.of(request.programme).open(), pk=invitation_id)
    members.withdraw_invitation(found, request.user)
    return redirect("people", programme=request.programme.slug)


@needs(Permission.MANAGE)
def member(request: ProgrammeRequest, membership_id: int) -> HttpResponse:
    """One member: role, forgotten password, leaving."""
    return _member_page(request, _of(request, membership_id))


@require_POST
@needs(Permission.MANAGE)
def role(request: ProgrammeRequest, membership_id: int) -> HttpResponse:
    """Give the member another role."""
    found = _of(request, membership_id)
    form = RoleForm(request.POST)
    wanted = form.cleaned_data["role"] if form.is_valid() else ""
    return _tried(request, found, lambda: members.change_role(found, request.user, wanted))


@require_POST
@needs(Permission.MANAGE)
def withdraw(request: ProgrammeRequest, membership_id: int) -> HttpResponse:
    """End the membership."""
    found = _of(request, membership_id)
    return _tried(request, found, lambda: members.withdraw(found, request.user))


@require_POST
@needs(Permission.MANAGE)
def pseudonymise(request: ProgrammeRequest, membership_id: int) -> HttpResponse:
    """Take a former member's name off the record."""
    found = _of(request, membership_id)
    return _tried(request, found, lambda: leaving.pseudonymise(found.person, request.user))


@never_cache
@require_POST
@needs(Permission.MANAGE)
def reset(request: ProgrammeRequest, membership_id: int) -> HttpResponse:
    """A code for a forgotten password, on the page this once."""
    found = _of(request, membership_id)
    try:
        code = passwords.make_code(request.programme, request.user, found)
    except ActionNotAllowed as refusal:
        return _member_page(request, found, str(refusal))
    address = request.build_absolute_uri(reverse("forgotten"))
    context = {"member": found, "code": code, "address": address}
    return render(request, "people/reset.html", context)


@needs(Permission.MANAGE)
def settings(request: ProgrammeRequest) -> HttpResponse:
    """The programme's name, time zone, and own review."""
    form = SettingsForm.of(request.programme, form_data(request), members.alone(request.programme))
    if request.method == "POST" and form.is_valid():
        change_settings(request.programme, request.user, **form.cleaned_data)
        return redirect("today", programme=request.programme.slug)
    return render(
        request, "people/settings.html", {"form": form}, status=422 if form.errors else 200
    )


@needs(Permission.MANAGE)
def work(request: ProgrammeRequest) -> HttpResponse:
    """How the programme works: depth of sampling, where waste goes."""
    form = SamplingSettingsForm(form_data(request), request.programme)
    if request.method == "POST" and form.is_valid():
        change_settings(request.programme, request.user, **form.described())
        return redirect("settings", programme=request.programme.slug)
    return render(request, "people/work.html", {"form": form}, status=422 if form.errors else 200)


def _of(request: ProgrammeRequest, membership_id: int) -> Any:
    every = Membership.objects.filter(programme=request.programme).select_related("person")
    return get_object_or_404(every, pk=membership_id)


def _tried(request: ProgrammeRequest, found: Any, act: Callable[[], None]) -> HttpResponse:
    try:
        act()
    except ActionNotAllowed as refusal:
        return _member_page(request, found, str(refusal))
    return redirect("people", programme=request.programme.slug)


def _member_page(request: ProgrammeRequest, found: Any, wrong: str = "") -> HttpResponse:
    context = {"member": found, "form": RoleForm(initial={"role": found.role}), "wrong": wrong}
    return render(request, "people/member.html", context, status=422 if wrong else 200)
