"""Runs and their events in the words of the field."""

from collections.abc import Collection
from typing import Any, Self

from django.db import models

from kessa.platform.scoping import ProgrammeQuerySet


class RunQuery(ProgrammeQuerySet):
    """of(programme).unfinished()"""

    def of(self, programme: Any) -> Self:
        related = self.select_related("sample__point__water", "version", "opened_by", "kept_by")
        return related.prefetch_related("lots_used").filter(programme=programme)

    def for_today(self) -> Self:
        """By which kit, since when; without the point, which Today has read already."""
        related = self.select_related(None).select_related("sample", "version")
        return related.prefetch_related(None).only(
            "programme", "opened_at", "water_kind", "sample__programme", "sample__point",
            "version__programme", "version__document", "version__hash", "version__method_id",
        )  # fmt: skip

    def unfinished(self) -> Self:
        """Runs of samples that were taken without an outcome yet, the newest first."""
        return self.filter(finish="", sample__outcome="taken").order_by("-opened_at")

    def kept_by(self, person: Any) -> Self:
        """Those that this person continues."""
        return self.filter(models.Q(kept_by=person) | models.Q(kept_by=None, opened_by=person))

    def of_visit(self, visit_id: int) -> Self:
        """Those of a visit that were not cancelled, in the order they were opened."""
        some = self.filter(sample__visit=visit_id).exclude(finish="cancelled")
        return some.order_by("opened_at", "pk")

    def numbers(self) -> list[Any]:
        """Their ids alone."""
        return list(self.select_related(None).prefetch_related(None).values_list("pk", flat=True))

    def how_far(self) -> list[tuple[Any, ...]]:
        """Of each run how it ended and how many acts have arrived, in one light query."""
        bare = self.select_related(None).prefetch_related(None).order_by("pk")
        acts = models.Max("events__arrival")
        return list(bare.values_list("pk", "finish").annotate(acts=acts))

    def last_methods_of(self, person: Any, most: int) -> list[str]:
        """The methods of the last tests that this person opened, the newest first, each once."""
        opened = self.select_related(None).prefetch_related(None).filter(opened_by=person)
        last = opened.order_by("-opened_at").values_list("version__method_id", flat=True)
        return list(dict.fromkeys(last[: 5 * most]))[:most]


class RunLotManager(models.Manager[Any]):
    """Lots of a run, each with the lot itself."""

    def get_queryset(self) -> ProgrammeQuerySet:
        return ProgrammeQuerySet(self.model, using=self._db).select_related("lot")

    def of(self, programme: Any) -> ProgrammeQuerySet:
        """The lots of a programme's runs."""
        return self.get_queryset().of(programme)

    def done_with(self, lot: Any) -> ProgrammeQuerySet:
        """Where a run is done with this lot and no other one was chosen later."""
        rows = self.get_queryset().of(lot.programme_id)
        later = rows.filter(
            run=models.OuterRef("run"), lot__reagent=lot.reagent, pk__gt=models.OuterRef("pk")
        )
        return rows.filter(~models.Exists(later), lot=lot)


class RunInstrumentQuery(ProgrammeQuerySet):
    """of(programme).read_with(instrument)"""

    def read_with(self, instrument: Any) -> Self:
        """Where a run is read with this instrument and no other one was chosen later."""
        later = self.filter(
            run=models.OuterRef("run"), kind=models.OuterRef("kind"), pk__gt=models.OuterRef("pk")
        )
        return self.filter(~models.Exists(later), instrument=instrument)


class StandardCheckQuery(ProgrammeQuerySet):
    """of(programme).standing()"""

    def standing(self) -> Self:
        """Those that count: of one stage of a run the later row."""
        later = self.model._base_manager.filter(
            run=models.OuterRef("run"), stage=models.OuterRef("stage"), pk__gt=models.OuterRef("pk")
        )
        return self.filter(~models.Exists(later))

    def last_of_each(self, about: str, numbers: Collection[int]) -> Self:
        """The last one of each of these lots or instruments (*about*)."""
        some = self.filter(**{f"{about}__in": numbers}).select_related(about)
        return some.order_by(about, "-measured_at", "-pk").distinct(about)


class EventQuery(ProgrammeQuerySet):
    """of_run(run)"""

    def of_run(self, run: Any) -> Self:
        """The run's events in the order they are folded."""
        kept = self.filter(programme_id=run.programme_id, run=run)
        return kept.order_by("lamport", "device", "seq")
