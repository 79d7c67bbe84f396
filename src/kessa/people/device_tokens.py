"""A device's permission to append acts to a visit, which outlives the sign-in that made it."""

import hashlib
import secrets
from datetime import timedelta
from typing import Protocol

from django.db import transaction

from kessa.people.models import DeviceToken
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.models import Membership, Person, Programme
from kessa.platform.permissions import Permission, may


class Scope(Protocol):
    """What a device may append to: a visit, of which people know the number and programme."""

    pk: int
    programme_id: int
    programme: Programme


LASTS = timedelta(days=60)


def token_hash(token: str) -> str:
    """What is kept of a token."""
    return hashlib.sha256(token.encode()).hexdigest()


@transaction.atomic
def allow(visit: Scope, person: Person, device: str, named: str) -> tuple[str, DeviceToken]:
    """A fresh token for this person's device and this visit; an older one ends."""
    now = clock.now()
    same = DeviceToken.objects.filter(person=person, visit_id=visit.pk, device=device)
    same.active().update(revoked_at=now)
    token = secrets.token_urlsafe(32)
    made = DeviceToken.objects.create(
        programme_id=visit.programme_id,
        person=person,
        visit_id=visit.pk,
        device=device,
        named=named,
        hash=token_hash(token),
        expires_at=now + LASTS,
    )
    record(visit.programme, person, "device.allowed", made, visit=visit.pk)
    return token, made


def of_token(token: str) -> DeviceToken | None:
    """The active capability of a token, of somebody who may still test here."""
    found = DeviceToken.objects.active().select_related("programme", "person")
    capability: DeviceToken | None = found.filter(hash=token_hash(token)).first()
    if capability is None or not capability.person.is_active:
        return None
    members = Membership.objects.for_person(capability.person).active()
    membership = members.filter(programme=capability.programme).first()
    if membership is None or not may(membership.role, Permission.TEST):
        return None
    capability.used_at = clock.now()
    capability.save(update_fields=["used_at"])
    return capability


def revoke_all(person: Person) -> None:
    """None of a person's devices may send any more without a sign-in."""
    for capability in DeviceToken.objects.for_person(person).active():
        revoke(capability, person)


@transaction.atomic
def revoke(capability: DeviceToken, by: Person) -> None:
    """The device may not send any more."""
    capability.revoked_at = clock.now()
    capability.save(update_fields=["revoked_at"])
    record(capability.programme, by, "device.revoked", capability)
