"""Results in the domain's words."""

from datetime import date
from typing import Any

from django.db import models
from django.db.models import Q


class ResultQuery(models.QuerySet[Any]):
    """of(programme).at(point).of_parameter(key).counting()"""

    def of(self, programme: Any) -> "ResultQuery":
        return self.filter(programme=programme)

    def at(self, point: Any) -> "ResultQuery":
        return self.filter(point=point)

    def of_parameter(self, key: str) -> "ResultQuery":
        return self.filter(parameter=key)

    def counting(self) -> "ResultQuery":
        """Results that count for what is usual: standing ones with a figure."""
        return self.standing().filter(current__finish="done", current__number__isnull=False)

    def standing(self) -> "ResultQuery":
        """Neither rejected nor practice, nor of a run that was taken up again."""
        return self.filter(status__in=("provisional", "reviewed"))

    def for_review(self) -> "ResultQuery":
        """What waits for a reviewer, the oldest first."""
        return self.filter(waits_for="reviewer").order_by("sampled_at", "id")

    def returned_to(self, person: Any) -> "ResultQuery":
        """What a reviewer sent back to this analyst."""
        return self.filter(waits_for="analyst", run__opened_by=person).order_by("sampled_at")

    def newest_first(self) -> "ResultQuery":
        return self.order_by("-sampled_at", "-id")

    def with_evidence(self) -> "ResultQuery":
        """Everything a row of the log shows, in one query."""
        return self.select_related(
            "current",
            "point__water",
            "run__version",
            "run__opened_by",
            "run__sample__taken_by",
            "run__continues",
            "programme",
        )

    def with_lots(self) -> "ResultQuery":
        """With the lots of each result's run."""
        return self.prefetch_related("run__lots_used")

    def with_history(self) -> "ResultQuery":
        """With every evaluation and who made it, and every decision."""
        return self.prefetch_related("evaluations__made_by", "reviews__by")

    def between(self, first: date | None, last: date | None) -> "ResultQuery":
        """Sampled from *first* to *last*, both days included; None is open."""
        when = Q()
        if first:
            when &= Q(sampled_at__date__gte=first)
        if last:
            when &= Q(sampled_at__date__lte=last)
        return self.filter(when)
