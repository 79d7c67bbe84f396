"""Who belongs to a programme: inviting, joining, roles, leaving."""

from datetime import timedelta

from django.db import transaction

from kessa.people import codes
from kessa.people.models import Invitation
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Membership, Person, Programme, Role
from kessa.platform.revisions import revise_membership

INVITATION_LASTS = timedelta(days=14)


@transaction.atomic
def invite(programme: Programme, by: Person, role: str, note: str = "") -> tuple[Invitation, str]:
    """An invitation and its code, which is shown this once."""
    code = codes.make()
    made = Invitation.objects.create(
        programme=programme,
        role=role,
        note=note,
        hash=codes.hash_of(code),
        made_by=by,
        expires_at=clock.now() + INVITATION_LASTS,
    )
    record(programme, by, "member.invited", made, role=role)
    return made, code


def invitation_of(code: str) -> Invitation | None:
    """The open invitation of a code, however it was typed."""
    found: Invitation | None = (
        Invitation.objects.open()
        .select_related("programme", "made_by")
        .filter(hash=codes.hash_of(code))
        .first()
    )
    return found


@transaction.atomic
def withdraw_invitation(invitation: Invitation, by: Person) -> None:
    """The code stops working."""
    invitation.withdrawn_at = clock.now()
    invitation.save(update_fields=["withdrawn_at"])
    record(invitation.programme, by, "member.invitation-withdrawn", invitation)


@transaction.atomic
def join(invitation: Invitation, person: Person) -> Membership:
    """The person joins with the invitation's role; somebody who had left comes back with it.

    Raises ActionNotAllowed when the code was used meanwhile or the person belongs already.
    """
    held = Invitation.objects.filter(hash=invitation.hash).open().select_for_update().first()
    if held is None:
        raise ActionNotAllowed("This code has been used or withdrawn. Ask for a new one.")
    membership: Membership
    membership, fresh = Membership.objects.select_for_update().get_or_create(
        programme=held.programme, person=person, defaults={"role": held.role}
    )
    if not fresh and membership.ended_at is None:
        raise ActionNotAllowed(f"You belong to {held.programme} already, as {membership.role}.")
    if not fresh:
        membership.role, membership.ended_at = held.role, None
        membership.since = clock.now()
        membership.save(update_fields=["role", "ended_at", "since"])
    held.used_by, held.used_at = person, clock.now()
    held.save(update_fields=["used_by", "used_at"])
    seals = [revise_membership(membership, person)]
    record(held.programme, person, "member.joined", membership, role=held.role, seals=seals)
    return membership


@transaction.atomic
def change_role(membership: Membership, by: Person, role: str) -> None:
    """Give a member another role. Raises ActionNotAllowed for the last manager."""
    held = _held(membership)
    if role not in Role.values:
        raise ActionNotAllowed("Choose a role from the list.")
    if held.role == role:
        return
    _keep_a_manager(held)
    was, held.role = held.role, role
    held.save(update_fields=["role"])
    seals = [revise_membership(held, by)]
    record(held.programme, by, "member.role", held, was=was, role=role, seals=seals)


@transaction.atomic
def withdraw(membership: Membership, by: Person) -> None:
    """End a membership; what the person did stays. Raises ActionNotAllowed for the last manager."""
    held = _held(membership)
    _keep_a_manager(held)
    held.ended_at = clock.now()
    held.save(update_fields=["ended_at"])
    act = "member.left" if by.pk == held.person_id else "member.withdrawn"
    seals = [revise_membership(held, by)]
    record(held.programme, by, act, held, role=held.role, seals=seals)


def alone(programme: Programme) -> bool:
    """Whether the programme has one member who tests or decides."""
    working = Membership.objects.filter(programme=programme).active()
    return working.exclude(role=Role.VIEWER).count() == 1


def _held(membership: Membership) -> Membership:
    """The membership with the programme's managers locked, so that two cannot both leave."""
    active = Membership.objects.filter(programme_id=membership.programme_id).active()
    list(active.filter(role=Role.MANAGER).select_for_update())
    held: Membership | None = active.select_for_update().filter(pk=membership.pk).first()
    if held is None:
        raise ActionNotAllowed("This membership has ended already.")
    return held


def _keep_a_manager(membership: Membership) -> None:
    others = Membership.objects.filter(programme_id=membership.programme_id).active()
    others = others.filter(role=Role.MANAGER).exclude(pk=membership.pk)
    if membership.role == Role.MANAGER and not others.exists():
        raise ActionNotAllowed("This is the only manager. Make another person a manager first.")


def member_choices(programme: Programme) -> list[tuple[str, str]]:
    """Who works in the programme, to choose from."""
    members = Membership.objects.working_in(programme)
    return [(str(one.person_id), str(one.person)) for one in members]
