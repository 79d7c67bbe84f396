"""Settings as revisions: what a water, a point, a lot, a membership or a programme said from a day
on."""

from datetime import datetime
from typing import Any

from kessa.platform import clock
from kessa.platform.audit import about
from kessa.platform.hashes import seal_of
from kessa.platform.models import Membership, Person, Programme, SettingRevision

SETTINGS = ("name", "timezone", "own_review", "depth_rule", "depth_cm", "waste")
"""Of a programme."""


def revise(
    setting: Any, by: Person | None, data: dict[str, Any], valid_from: datetime | None
) -> dict[str, Any]:
    """Keep what *setting* says from *valid_from* on (None: it has always said so); what the audit
    seals of it."""
    made = SettingRevision.objects.create(
        programme_id=setting.pk if isinstance(setting, Programme) else setting.programme_id,
        about=about(setting),
        valid_from=valid_from,
        made_by=by,
        data=data,
    )
    return seal_of([made])


def revise_membership(membership: Membership, by: Person) -> dict[str, Any]:
    """Keep a person's role as it is from now on, or that it has ended."""
    said = {"person": membership.person_id, "role": membership.role}
    return revise(membership, by, said | {"ended": membership.ended_at is not None}, clock.now())


def revise_programme(programme: Programme, by: Person) -> dict[str, Any]:
    """Keep a programme's settings as they are from now on."""
    return revise(programme, by, {name: getattr(programme, name) for name in SETTINGS}, clock.now())
