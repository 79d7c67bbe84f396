"""Capabilities in the domain's words."""

from typing import Any

from django.db import models
from django.utils import timezone


class CapabilityQuery(models.QuerySet[Any]):
    """of(person).standing()"""

    def of(self, person: Any) -> "CapabilityQuery":
        return self.filter(person=person).select_related("programme", "visit")

    def standing(self) -> "CapabilityQuery":
        """Neither revoked nor run out."""
        return self.filter(revoked_at=None, expires_at__gt=timezone.now())
