"""Samples in the domain's words."""

from datetime import timedelta
from typing import Any

from django.db import models
from django.utils import timezone


class SampleQuery(models.QuerySet[Any]):
    """of(programme)"""

    def of(self, programme: Any) -> "SampleQuery":
        return self.filter(programme=programme).select_related("point__water", "visit")

    def on_the_way(self) -> "SampleQuery":
        """Begun within the last day, and neither taken nor given up."""
        since = timezone.now() - timedelta(days=1)
        return self.filter(outcome="open", visit__begun_at__gte=since).order_by("-visit__begun_at")

    def not_taken(self) -> "SampleQuery":
        return self.filter(outcome="not-taken")
