"""What tests took of the lots they were done with, and what standards in them came to."""

from django.db import models

from kessa.library.models import Instrument, Lot
from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import insert_only, programme_constraints
from kessa.runs.queries import StandardCheckQuery


class LotUse(models.Model):
    """What one run took of one lot, in the reagent's unit. A projection of the run's events."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    run = models.ForeignKey("runs.Run", models.PROTECT, related_name="lot_uses")
    lot = models.ForeignKey(Lot, models.PROTECT, related_name="uses")
    amount = models.FloatField()

    objects = ProgrammeQuerySet.as_manager()

    class Meta:
        constraints = [
            *programme_constraints("run", "lot"),
            models.UniqueConstraint(fields=["run", "lot"], name="one_use_a_run_and_lot"),
        ]

    def __str__(self) -> str:
        return f"{self.amount:g} of {self.lot}"


class StandardCheck(models.Model):
    """What a method found of a standard, as percent of what it holds, with the window it has to lie
    in. Inserted, never changed. It speaks of the lot that values rest on and of the instrument.

    run, stage: where it is part of a test; of one stage the later row counts. shown: in words.
    """

    programme = models.ForeignKey(Programme, models.PROTECT)
    method_id = models.SlugField(max_length=60)
    stage = models.CharField(max_length=60, blank=True)
    run = models.ForeignKey("runs.Run", models.PROTECT, null=True, related_name="standards")
    lot = models.ForeignKey(Lot, models.PROTECT, null=True, related_name="standard_checks")
    instrument = models.ForeignKey(Instrument, models.PROTECT, null=True, related_name="+")
    standard = models.ForeignKey(Lot, models.PROTECT, null=True, related_name="+")
    percent = models.FloatField()
    low = models.PositiveSmallIntegerField()
    high = models.PositiveSmallIntegerField()
    passes = models.BooleanField()
    shown = models.CharField(max_length=240)
    measured_at = models.DateTimeField()
    by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    at = models.DateTimeField(default=clock.now)

    objects = StandardCheckQuery.as_manager()

    class Meta:
        constraints = programme_constraints("run", "lot", "instrument", "standard")
        indexes = [models.Index(fields=["programme", "method_id", "-measured_at"])]
        ordering = ["-measured_at", "-pk"]
        triggers = [insert_only()]

    def __str__(self) -> str:
        return self.shown
