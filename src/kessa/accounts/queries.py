"""People's memberships, invitations and devices in the domain's words."""

from typing import Any

from django.db import models
from django.utils import timezone


class MembershipQuery(models.QuerySet[Any]):
    """of(person).standing().in_programme(slug)"""

    def of(self, person: Any) -> "MembershipQuery":
        return self.filter(person=person).select_related("programme")

    def standing(self) -> "MembershipQuery":
        """Those that have not ended."""
        return self.filter(ended_at=None)

    def working_in(self, programme: Any) -> "MembershipQuery":
        """The members of a programme who do tests."""
        testers = self.filter(programme=programme).exclude(role="viewer")
        return testers.standing().select_related("person").order_by("person__username")

    def in_programme(self, slug: str) -> "MembershipQuery":
        return self.filter(programme__slug=slug)


class InvitationQuery(models.QuerySet[Any]):
    """of(programme).open()"""

    def of(self, programme: Any) -> "InvitationQuery":
        return self.filter(programme=programme).select_related("made_by", "used_by")

    def open(self) -> "InvitationQuery":
        """Neither used nor withdrawn nor run out."""
        return self.filter(used_at=None, withdrawn_at=None, expires_at__gt=timezone.now())


class SignInQuery(models.QuerySet[Any]):
    """of(person)"""

    def of(self, person: Any) -> "SignInQuery":
        return self.filter(person=person).order_by("-seen_at")
