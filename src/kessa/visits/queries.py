"""Samples in the domain's words."""

from typing import Any

from django.db import models


class SampleQuery(models.QuerySet[Any]):
    """of(programme)"""

    def of(self, programme: Any) -> "SampleQuery":
        return self.filter(programme=programme).select_related("point__water", "visit")

    def not_taken(self) -> "SampleQuery":
        return self.filter(outcome="not-taken")
