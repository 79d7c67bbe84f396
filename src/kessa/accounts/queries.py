"""Memberships in the domain's words."""

from typing import Any

from django.db import models


class MembershipQuery(models.QuerySet[Any]):
    """of(person).in_programme(slug)"""

    def of(self, person: Any) -> "MembershipQuery":
        return self.filter(person=person).select_related("programme")

    def in_programme(self, slug: str) -> "MembershipQuery":
        return self.filter(programme__slug=slug)
