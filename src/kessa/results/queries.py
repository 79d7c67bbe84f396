"""Results in the words of the field."""

from datetime import date, datetime
from typing import Any, Self

from django.apps import apps
from django.db.models import Prefetch, Q

from kessa.platform.days import between_days
from kessa.platform.scoping import ProgrammeQuerySet
from kessa_core.runs import WITHOUT_FIGURE

ONLY_ON_ITS_PAGE = (
    "determinations", "context", "lots", "traits", "flags", "notes", "shown", "working", "why",
)  # fmt: skip
"""Columns of an evaluation that no list shows."""


class ResultQuery(ProgrammeQuerySet):
    """of(programme).at(point).of_parameter(key).counting()"""

    def at(self, point: Any) -> Self:
        return self.filter(point=point)

    def of_parameter(self, key: str) -> Self:
        return self.filter(parameter=key)

    def counting(self) -> Self:
        """Results that count for what is usual: standing ones with a figure."""
        return self.standing().filter(current__finish="done", current__number__isnull=False)

    def standing(self) -> Self:
        """Neither rejected nor practice, nor of a run that was taken up again."""
        return self.filter(status__in=("provisional", "reviewed"))

    def for_review(self) -> Self:
        """What waits for a reviewer, the oldest first."""
        return self.filter(waits_for="reviewer").order_by("sampled_at", "id")

    def returned_to(self, person: Any) -> Self:
        """What a reviewer sent back to this analyst."""
        return self.filter(waits_for="analyst", run__opened_by=person).order_by("sampled_at")

    def newest_first(self) -> Self:
        return self.order_by("-sampled_at", "-id")

    def oldest_first(self) -> Self:
        return self.order_by("sampled_at", "id")

    def with_outcome(self, code: str) -> Self:
        """By verdict, or by why there is no figure; "none": neither figure nor limit."""
        wanted = ["none", *WITHOUT_FIGURE] if code == "none" else [code]
        return self.filter(outcome_code__in=wanted)

    def for_lists(self) -> Self:
        """What a row of a list shows, in one query: without what only a result's page reads."""
        related = self.select_related("current", "point__water", "run__opened_by")
        return related.defer(*(f"current__{name}" for name in ONLY_ON_ITS_PAGE))

    def with_struck(self) -> Self:
        """With the figure of every evaluation."""
        made = apps.get_model("results.Evaluation").objects.only("id", "result_id", "figure")
        return self.prefetch_related(Prefetch("evaluations", made))

    def with_evidence(self) -> Self:
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

    def between(self, first: date | None, last: date | None) -> Self:
        """Sampled from *first* to *last*, both days included; None is open."""
        return self.filter(between_days("sampled_at", first, last))

    def older_than(self, at: datetime, number: int) -> Self:
        """What comes after (at, number) in newest_first()."""
        return self.filter(Q(sampled_at__lt=at) | Q(sampled_at=at, pk__lt=number))

    def newer_than(self, at: datetime, number: int) -> Self:
        """What comes before (at, number) in newest_first()."""
        return self.filter(Q(sampled_at__gt=at) | Q(sampled_at=at, pk__gt=number))


class LatestQuery(ProgrammeQuerySet):
    """of(programme).with_values()"""

    def with_values(self) -> Self:
        """With the newest result, its figures and its point."""
        related = self.select_related("result__current", "point__water")
        related = related.defer(*(f"result__current__{name}" for name in ONLY_ON_ITS_PAGE))
        return related.order_by("point__water_id", "point__order", "point_id", "parameter")
