"""A device's permission to append acts to a visit, which outlives the sign-in that made it."""

import hashlib
import secrets
from datetime import timedelta

from django.db import transaction
from django.utils import timezone

from kessa.accounts.models import Membership, Person
from kessa.permissions import Permission, may
from kessa.records.services import record
from kessa.sync.models import Capability
from kessa.visits.models import Visit

LASTS = timedelta(days=60)


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


@transaction.atomic
def allow(visit: Visit, person: Person, device: str, named: str) -> tuple[str, Capability]:
    """A fresh token for this person's device and this visit; an older one ends."""
    now = timezone.now()
    same = Capability.objects.filter(person=person, visit=visit, device=device)
    same.standing().update(revoked_at=now)
    token = secrets.token_urlsafe(32)
    made = Capability.objects.create(
        programme_id=visit.programme_id,
        person=person,
        visit=visit,
        device=device,
        named=named,
        hash=_hash(token),
        expires_at=now + LASTS,
    )
    record(visit.programme, person, "device.allowed", made, visit=visit.pk)
    return token, made


def of_token(token: str) -> Capability | None:
    """The standing capability of a token, of somebody who may still test here."""
    found = Capability.objects.standing().select_related("programme", "person", "visit")
    capability: Capability | None = found.filter(hash=_hash(token)).first()
    if capability is None:
        return None
    members = Membership.objects.of(capability.person).standing()
    membership = members.filter(programme=capability.programme).first()
    if membership is None or not may(membership.role, Permission.TEST):
        return None
    capability.used_at = timezone.now()
    capability.save(update_fields=["used_at"])
    return capability


@transaction.atomic
def revoke(capability: Capability, by: Person) -> None:
    """The device may not send any more."""
    capability.revoked_at = timezone.now()
    capability.save(update_fields=["revoked_at"])
    record(capability.programme, by, "device.revoked", capability)
