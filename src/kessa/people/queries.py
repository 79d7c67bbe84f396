"""Invitations and devices in the words of the field."""

from typing import Any

from django.db import models

from kessa.platform import clock
from kessa.platform.scoping import ProgrammeQuerySet


class InvitationQuery(ProgrammeQuerySet):
    """of(programme).open()"""

    scope_columns = ("programme_id", "hash")

    def of(self, programme: Any) -> "InvitationQuery":
        return self.filter(programme=programme).select_related("made_by", "used_by")

    def open(self) -> "InvitationQuery":
        """Neither used nor withdrawn nor run out."""
        return self.filter(used_at=None, withdrawn_at=None, expires_at__gt=clock.now())


class DeviceSessionQuery(models.QuerySet[Any]):
    """of(person)"""

    def for_person(self, person: Any) -> "DeviceSessionQuery":
        return self.filter(person=person).order_by("-seen_at")


class DeviceTokenQuery(ProgrammeQuerySet):
    """for_person(person).active()"""

    scope_columns = ("programme_id", "person_id", "hash")

    def for_person(self, person: Any) -> "DeviceTokenQuery":
        return self.filter(person=person).select_related("programme")

    def active(self) -> "DeviceTokenQuery":
        """Neither revoked nor run out."""
        return self.filter(revoked_at=None, expires_at__gt=clock.now())
