"""Writing the audit. The entry stands in the same transaction as the change it tells of."""

from dataclasses import replace
from datetime import UTC
from typing import Any

from django.db import transaction

from kessa.platform import clock
from kessa.platform.models import AuditChain, AuditEntry, Person, Programme
from kessa_core.records import Entry as CoreEntry
from kessa_core.records import seal


def about(thing: Any) -> str:
    """How an entry names an object: "result:12"."""
    return f"{thing._meta.model_name}:{thing.pk}"


@transaction.atomic
def record(
    programme: Programme, person: Person | None, act: str, thing: Any, **data: Any
) -> AuditEntry:
    """Add an entry to the programme's chain.

    The last thing a service does: the chain's head stays locked until the transaction ends.
    """
    chains = AuditChain.objects.select_for_update().filter(programme=programme)
    head = chains.first()
    if head is None:
        AuditChain.objects.get_or_create(programme=programme)
        head = chains.get()
    now = clock.now().astimezone(UTC)
    person_id = person.pk if person else None
    unsealed = CoreEntry(
        programme.slug,
        head.number + 1,
        now.isoformat(timespec="microseconds"),
        person_id or 0,
        act,
        about(thing),
        data,
        head.hash,
    )
    sealed = replace(unsealed, hash=seal(unsealed))
    head.number, head.hash = sealed.number, sealed.hash
    head.save(update_fields=["number", "hash"])
    return AuditEntry.objects.create(
        programme=programme,
        number=sealed.number,
        at=now,
        person_id=person_id,
        act=act,
        about=sealed.about,
        data=data,
        before=sealed.before,
        hash=sealed.hash,
    )
