"""Photographs taken in tests, and who has still to read them."""

from django.db import models

from kessa.platform.models import Person, Programme
from kessa.platform.tenancy import programme_constraints
from kessa.runs.photo_queries import PhotoReadingQuery


class PhotoReading(models.Model):
    """One reading that was photographed. A projection of its run's events.

    photo: the key of the photograph. wanted: what it waits for. read_by: who read it first, in
    person or from the photograph.
    """

    class Wanted(models.TextChoices):
        NOTHING = "", "nothing"
        FIRST = "first", "its reading"
        SECOND = "second", "a second reading"

    programme = models.ForeignKey(Programme, models.PROTECT, db_index=False)
    run = models.ForeignKey("runs.Run", models.PROTECT, related_name="photo_readings")
    determination = models.CharField(max_length=60)
    slot = models.CharField(max_length=40)
    photo = models.CharField(max_length=64)
    wanted = models.CharField(max_length=6, choices=Wanted.choices, blank=True)
    photographed_by = models.ForeignKey(Person, models.PROTECT, related_name="+", db_index=False)
    photographed_at = models.DateTimeField()
    read_by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+", db_index=False)

    objects = PhotoReadingQuery.as_manager()

    class Meta:
        constraints = [
            *programme_constraints("run"),
            models.UniqueConstraint(
                fields=["run", "determination", "slot"], name="one_photograph_a_reading"
            ),
        ]
        indexes = [
            models.Index(
                fields=["programme", "photographed_at"],
                name="runs_photoreading_waiting",
                condition=~models.Q(wanted=""),
            )
        ]

    def __str__(self) -> str:
        return f"{self.determination} of {self.run_id}"
