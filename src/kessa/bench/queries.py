"""Runs and events in the domain's words."""

from typing import Any

from django.db import models


class RunQuery(models.QuerySet[Any]):
    """of(programme).unfinished()"""

    def of(self, programme: Any) -> "RunQuery":
        return self.filter(programme=programme).select_related(
            "sample__point__water", "version", "lot", "opened_by"
        )

    def unfinished(self) -> "RunQuery":
        """Runs without an outcome yet, the newest first."""
        return self.filter(finish="").order_by("-opened_at")


class EventQuery(models.QuerySet[Any]):
    """of_run(run)"""

    def of_run(self, run: Any) -> "EventQuery":
        return self.filter(run=run).order_by("lamport", "device", "seq")
