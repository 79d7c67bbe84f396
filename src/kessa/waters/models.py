"""Waters and the points where they are sampled."""

from django.db import models

from kessa.accounts.models import Programme
from kessa.waters.queries import PointQuery


class Water(models.Model):
    """A stream, a well, a boiler. limit_set: the shipped set that holds here. traits: what it is
    known to hold or to be, which some kits are not for."""

    class Kind(models.TextChoices):
        STREAM = "stream", "stream"
        LAKE = "lake", "lake"
        WELL = "well", "well"
        TAP = "tap", "tap or network"
        BOILER = "boiler", "boiler"
        COOLING = "cooling", "open cooling circuit"
        HEATING = "heating", "heating loop"
        CHILLED = "chilled", "chilled loop"

    programme = models.ForeignKey(Programme, models.PROTECT)
    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=10, choices=Kind.choices)
    limit_set = models.CharField(max_length=60, blank=True)
    traits = models.JSONField(default=list, blank=True)

    def __str__(self) -> str:
        return self.name


class Point(models.Model):
    """A sampling point: how to find it, what is dangerous there, which point it is paired with."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    water = models.ForeignKey(Water, models.PROTECT, related_name="points")
    name = models.CharField(max_length=80)
    place = models.CharField(max_length=160, help_text="Where it is, in one line.")
    getting_there = models.TextField(blank=True)
    dangers = models.JSONField(default=list, blank=True)
    pair = models.ForeignKey("self", models.PROTECT, null=True, blank=True, related_name="+")
    order = models.PositiveSmallIntegerField(default=0)

    objects = PointQuery.as_manager()

    class Meta:
        ordering = ["water_id", "order", "id"]

    def __str__(self) -> str:
        return f"{self.water.name}, {self.name}"
