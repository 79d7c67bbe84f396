"""Photographs. A row is inserted and never changed; the picture lies in a file of its own name."""

from pathlib import Path

from django.conf import settings
from django.db import models

from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import insert_only, programme_constraints


class Photograph(models.Model):
    """One picture. key: the SHA-256 of the file as its device made it, by which acts name it;
    stored: that of the file as it is kept, encoded again and without its position."""

    programme = models.ForeignKey(Programme, models.PROTECT, db_index=False)
    key = models.CharField(max_length=64)
    stored = models.CharField(max_length=64)
    size = models.PositiveIntegerField()
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    by = models.ForeignKey(Person, models.PROTECT, related_name="+", db_index=False)
    received_at = models.DateTimeField(default=clock.now)

    objects = ProgrammeQuerySet.as_manager()

    class Meta:
        constraints = [
            *programme_constraints(),
            models.UniqueConstraint(fields=["programme", "key"], name="one_photograph_a_key"),
        ]
        triggers = [insert_only()]

    def __str__(self) -> str:
        return f"Photograph {self.key[:8]}"

    @property
    def path(self) -> Path:
        """Where its file lies."""
        folder = Path(settings.MEDIA_ROOT) / "photographs" / str(self.programme_id)
        return folder / self.stored[:2] / f"{self.stored}.jpg"
