"""What happened at a water beside its visits."""

from typing import Any, Self

from django.db import models
from django.db.models import Q

from kessa.places.models import Point, Water
from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import insert_only, programme_constraints


class WaterEventQuery(ProgrammeQuerySet):
    """of(programme).standing().at(point)"""

    def standing(self) -> Self:
        """Those that were not withdrawn."""
        return self.filter(withdraws=None, withdrawn=None)

    def at(self, point: Any) -> Self:
        """Those of a point's water that are about all of it, or about this point."""
        return self.filter(Q(point=None) | Q(point=point), water=point.water_id)


class WaterEvent(models.Model):
    """Something that can explain results: rain, salt on a road, a dose, a repair. Inserted, never
    changed. point: where it is about one point alone. withdraws: the one that was a mistake."""

    class Kind(models.TextChoices):
        RAIN = "rain", "rain"
        SNOW = "snow", "snow"
        THAW = "thaw", "thaw"
        SALT = "salt", "road salted"
        DOSE = "dose", "product added"
        REPAIR = "repair", "repair"
        CLEANING = "cleaning", "cleaned or flushed"
        SPILL = "spill", "spill or discharge"
        OTHER = "other", "something else"

    programme = models.ForeignKey(Programme, models.PROTECT)
    water = models.ForeignKey(Water, models.PROTECT, related_name="happenings")
    point = models.ForeignKey(Point, models.PROTECT, null=True, related_name="+")
    kind = models.CharField(max_length=10, choices=Kind.choices)
    happened_at = models.DateTimeField()
    words = models.CharField(max_length=160, blank=True)
    by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    at = models.DateTimeField(default=clock.now)
    withdraws = models.OneToOneField("self", models.PROTECT, null=True, related_name="withdrawn")

    objects = WaterEventQuery.as_manager()

    class Meta:
        ordering = ["-happened_at", "-pk"]
        constraints = programme_constraints("water", "point", "withdraws")
        triggers = [insert_only()]
        indexes = [models.Index(fields=["water", "-happened_at"])]

    def __str__(self) -> str:
        return self.said

    @property
    def said(self) -> str:
        """What happened in a few words: "product added: 12 L of inhibitor"."""
        kind = self.get_kind_display()
        return f"{kind}: {self.words}" if self.words else str(kind)
