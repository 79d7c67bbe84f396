"""Runs and events in the domain's words."""

from typing import Any

from django.db import models


class RunQuery(models.QuerySet[Any]):
    """of(programme).unfinished()"""

    def of(self, programme: Any) -> "RunQuery":
        related = self.select_related("sample__point__water", "version", "opened_by", "kept_by")
        return related.prefetch_related("lots_used").filter(programme=programme)

    def unfinished(self) -> "RunQuery":
        """Runs without an outcome yet, the newest first."""
        return self.filter(finish="").order_by("-opened_at")

    def kept_by(self, person: Any) -> "RunQuery":
        """Those that this person goes on with."""
        return self.filter(models.Q(kept_by=person) | models.Q(kept_by=None, opened_by=person))


class RunLotManager(models.Manager[Any]):
    """Lots of a run, each with the lot itself."""

    def get_queryset(self) -> models.QuerySet[Any]:
        return super().get_queryset().select_related("lot")


class EventQuery(models.QuerySet[Any]):
    """of_run(run)"""

    def of_run(self, run: Any) -> "EventQuery":
        return self.filter(run=run).order_by("lamport", "device", "seq")
