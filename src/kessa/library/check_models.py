"""Checks of instruments, as they were made: inserted, never changed."""

from django.db import models

from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import insert_only, programme_constraints


class InstrumentCheck(models.Model):
    """One verification or calibration of an instrument. expected and found: with a standard or a
    reference instrument, in words with their unit, where it was held against one."""

    class Kind(models.TextChoices):
        VERIFIED = "verified", "verified"
        CALIBRATED = "calibrated", "calibrated"
        SERVICED = "serviced", "serviced"

    programme = models.ForeignKey(Programme, models.PROTECT)
    instrument = models.ForeignKey("library.Instrument", models.PROTECT, related_name="checks")
    kind = models.CharField(max_length=10, choices=Kind.choices)
    on = models.DateField()
    due = models.DateField(null=True)
    passed = models.BooleanField()
    against = models.ForeignKey("library.Lot", models.PROTECT, null=True, related_name="+")
    expected = models.CharField(max_length=40, blank=True)
    found = models.CharField(max_length=40, blank=True)
    note = models.CharField(max_length=240, blank=True)
    done_by = models.CharField(max_length=80, blank=True)
    by = models.ForeignKey(Person, models.PROTECT, related_name="+")
    at = models.DateTimeField(default=clock.now)

    objects = ProgrammeQuerySet.as_manager()

    class Meta:
        constraints = programme_constraints("instrument", "against")
        ordering = ["-on", "-pk"]
        triggers = [insert_only()]

    def __str__(self) -> str:
        return f"{self.instrument}, {self.kind} on {self.on}"
