"""Runs, their lots and instruments, and their events. Events are inserted, never changed."""

import uuid
from functools import cached_property
from typing import Any

from django.db import models

from kessa.library.models import Instrument, Lot, MethodVersion
from kessa.platform import clock
from kessa.platform.days import day_text
from kessa.platform.models import Person, Programme
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import insert_only, programme_constraints
from kessa.runs.lot_models import LotUse, StandardCheck
from kessa.runs.photo_models import PhotoReading
from kessa.runs.queries import EventQuery, RunInstrumentQuery, RunLotManager, RunQuery
from kessa.visits.models import Sample
from kessa_core.methods import Method
from kessa_core.readings.lots import Lots as CoreLots
from kessa_core.runs import Event as CoreEvent
from kessa_core.runs.reminders import Reminder

__all__ = [
    "Event",
    "LotUse",
    "PhotoReading",
    "Run",
    "RunDecision",
    "RunInstrument",
    "RunLot",
    "StandardCheck",
    "event_row",
]

CANCELLED = "cancelled"
"""How a run ends that was opened by mistake: before anything was done, without a result."""


class Run(models.Model):
    """One method carried out on a sample. continues: the run that ran out of range before it;
    water_kind: what kind of water it was then, which some steps depend on.

    kept_by and finish are projections: of its decisions, and of its events.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    programme = models.ForeignKey(Programme, models.PROTECT, db_index=False)
    sample = models.ForeignKey(Sample, models.PROTECT, related_name="runs")
    version = models.ForeignKey(MethodVersion, models.PROTECT)
    water_kind = models.CharField(max_length=10, blank=True)
    continues = models.ForeignKey("self", models.PROTECT, null=True, related_name="continued_by")
    opened_by = models.ForeignKey(Person, models.PROTECT, related_name="+", db_index=False)
    kept_by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+", db_index=False)
    opened_at = models.DateTimeField()
    finish = models.CharField(max_length=20, blank=True)

    objects = RunQuery.as_manager()

    reminder: Reminder | None = None
    reminded: str = ""
    """Of a long wait, given to the runs of a list by kessa.flows.reminders."""

    class Meta:
        constraints = programme_constraints("sample", "version", "continues")
        indexes = [
            models.Index(
                fields=["programme", "-opened_at"],
                name="runs_run_unfinished",
                condition=models.Q(finish=""),
            ),
            models.Index(
                fields=["programme", "opened_by", "-opened_at"], name="runs_run_of_a_person"
            ),
            models.Index(
                fields=["opened_by", "version", "-opened_at"], name="runs_run_last_of_a_method"
            ),
        ]

    def __str__(self) -> str:
        return f"Run {self.pk}"

    @property
    def method(self) -> Method:
        """Its method, as it is done in this kind of water."""
        return self.version.method.in_water(self.water_kind)

    @property
    def described(self) -> str:
        """ "Test of 11 November 2026, Beck, at the ford: Chloride, 15 mL"."""
        day = day_text(self.opened_at)
        return f"Test of {day}, {self.sample.point}: {self.version.title}"

    @property
    def keeper(self) -> Person:
        """Who continues it while it is unfinished."""
        return self.kept_by or self.opened_by

    @cached_property
    def lots(self) -> list[Lot]:
        """The lots it was done with, one a reagent: of each the one chosen last."""
        chosen = {used.lot.reagent: used.lot for used in self.lots_used.all()}
        return list(chosen.values())

    @cached_property
    def instruments(self) -> "dict[str, RunInstrument]":
        """The instrument it was read with, by kind: of each kind the one chosen last."""
        chosen = RunInstrument.objects.of(self.programme_id).filter(run=self)
        return {one.kind: one for one in chosen.order_by("pk")}

    @property
    def resting_on(self) -> list[Lot]:
        """The lots that values rest on: those of tracked reagents, and standards that say what
        they hold."""
        return Lot.resting_on(self.version.method, self.lots)

    @property
    def core_lots(self) -> CoreLots:
        """The lots that values rest on, as readings know them."""
        return Lot.all_as_core(self.resting_on)


class RunLot(models.Model):
    """The lot of one reagent that a run is done with. Inserted, never changed: where another one is
    taken, the later row counts. by, at: empty for the lots that were in use when it was opened."""

    programme = models.ForeignKey(Programme, models.PROTECT, db_index=False)
    run = models.ForeignKey(Run, models.PROTECT, related_name="lots_used", db_index=False)
    lot = models.ForeignKey(Lot, models.PROTECT, related_name="+")
    by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    at = models.DateTimeField(null=True)

    objects = RunLotManager()

    class Meta:
        constraints = programme_constraints("run", "lot")
        indexes = [models.Index(fields=["run", "lot"])]
        ordering = ["pk"]
        triggers = [insert_only()]

    def __str__(self) -> str:
        return f"{self.lot} in {self.run}"


class RunInstrument(models.Model):
    """The instrument of one kind that a run is read with, with what was noted of it then. Inserted,
    never changed: where another one is taken, the later row counts."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    run = models.ForeignKey(Run, models.PROTECT, related_name="instruments_used")
    kind = models.CharField(max_length=80)
    instrument = models.ForeignKey(Instrument, models.PROTECT, related_name="+")
    noted = models.JSONField(default=dict)
    by = models.ForeignKey(Person, models.PROTECT, related_name="+")
    at = models.DateTimeField(default=clock.now)

    objects = RunInstrumentQuery.as_manager()

    class Meta:
        constraints = programme_constraints("run", "instrument")
        triggers = [insert_only()]

    def __str__(self) -> str:
        return f"{self.instrument} in {self.run}"


class RunDecision(models.Model):
    """What somebody decided about a run beside its bench. Inserted, never changed."""

    class Kind(models.TextChoices):
        HANDED_OVER = "handed-over", "handed over"
        CANCELLED = "cancelled", "cancelled"

    programme = models.ForeignKey(Programme, models.PROTECT)
    run = models.ForeignKey(Run, models.PROTECT, related_name="decisions")
    kind = models.CharField(max_length=12, choices=Kind.choices)
    to = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    by = models.ForeignKey(Person, models.PROTECT, related_name="+")
    at = models.DateTimeField(default=clock.now)

    objects = ProgrammeQuerySet.as_manager()

    class Meta:
        ordering = ["pk"]
        constraints = programme_constraints("run")
        triggers = [insert_only()]

    def __str__(self) -> str:
        return f"{self.kind}, {self.at:%Y-%m-%d %H:%M}"


class Event(models.Model):
    """One act as the device sent it, and when it arrived.

    arrival: its number within the run in the order of arrival. batch: the sending it came with,
    which one entry of the audit seals.
    """

    id = models.CharField(primary_key=True, max_length=64)
    programme = models.ForeignKey(Programme, models.PROTECT, db_index=False)
    run = models.ForeignKey(Run, models.PROTECT, related_name="events", db_index=False)
    person = models.ForeignKey(Person, models.PROTECT, related_name="+", db_index=False)
    v = models.PositiveSmallIntegerField()
    act = models.CharField(max_length=20)
    data = models.JSONField(default=dict)
    device = models.CharField(max_length=64)
    seq = models.BigIntegerField()
    lamport = models.BigIntegerField()
    at = models.CharField(max_length=40)
    mono_ms = models.FloatField()
    page = models.CharField(max_length=64, blank=True)
    offset_ms = models.BigIntegerField(null=True)
    shown = models.JSONField(default=dict)
    received_at = models.DateTimeField(default=clock.now)
    arrival = models.PositiveIntegerField(default=0)
    batch = models.CharField(max_length=36, blank=True)

    objects = EventQuery.as_manager()

    class Meta:
        constraints = programme_constraints("run")
        triggers = [insert_only()]
        indexes = [
            models.Index(fields=["run", "lamport"]),
            models.Index(fields=["programme", "batch"]),
        ]

    def __str__(self) -> str:
        return f"{self.act} {self.at}"

    def as_core(self) -> CoreEvent:
        """The event as the core reads it."""
        return CoreEvent(run=str(self.run_id), **{name: getattr(self, name) for name in CARRIED})


CARRIED = (
    "id", "act", "data", "device", "seq", "lamport", "at", "mono_ms", "page", "offset_ms",
    "shown", "v",
)  # fmt: skip


def event_row(run: Run, person: Person, event: CoreEvent, arrival: int, batch: str) -> Event:
    """A row for an event that arrived."""
    carried: dict[str, Any] = {name: getattr(event, name) for name in CARRIED}
    return Event(
        programme_id=run.programme_id,
        run=run,
        person=person,
        arrival=arrival,
        batch=batch,
        **carried,
    )
