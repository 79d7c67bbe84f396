"""Waters and the points where they are sampled."""

from django.db import models

from kessa.places.facts import told, traits_from
from kessa.places.limit_models import LimitSetDraft, OwnLimitSet
from kessa.places.parts import every_part
from kessa.places.queries import AttachmentQuery, PointQuery
from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import insert_only, programme_constraints

__all__ = ["LimitAttachment", "LimitSetDraft", "OwnLimitSet", "Point", "Water"]


class Water(models.Model):
    """A stream, a well, a boiler. traits: what it is known to hold or to be, which some kits are
    not for. facts: what else is known of its kind (kessa.places.facts)."""

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
    traits = models.JSONField(default=list, blank=True)
    facts = models.JSONField(default=dict, blank=True)

    objects = ProgrammeQuerySet.as_manager()

    class Meta:
        constraints = programme_constraints()

    def __str__(self) -> str:
        return self.name

    @property
    def known_traits(self) -> tuple[str, ...]:
        """Its traits, with those that follow from its facts."""
        return tuple(dict.fromkeys([*self.traits, *traits_from(self.facts)]))

    @property
    def told(self) -> list[tuple[str, str]]:
        """What is known of it, as label and words."""
        return told(self.kind, self.facts)


class Point(models.Model):
    """A sampling point: how to find it, what is dangerous there, which point it is paired with.
    part: which part of its water it is, such as the feed of a boiler (kessa.places.parts).
    altitude_m: above the sea, for the air pressure there. latitude, longitude: degrees of WGS 84,
    both or neither. tag: what is fixed or painted there. photo: the key of a photograph of the
    place, empty without one; mark_x, mark_y: where in it the sample is taken, in thousandths of its
    width and height."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    water = models.ForeignKey(Water, models.PROTECT, related_name="points")
    name = models.CharField(max_length=80)
    place = models.CharField(max_length=160, help_text="Where it is, in one line.")
    part = models.CharField(max_length=20, choices=every_part, blank=True)
    altitude_m = models.SmallIntegerField(null=True, blank=True)
    latitude = models.FloatField(null=True, blank=True)
    longitude = models.FloatField(null=True, blank=True)
    tag = models.CharField(max_length=40, blank=True)
    photo = models.CharField(max_length=64, blank=True)
    mark_x = models.PositiveSmallIntegerField(null=True, blank=True)
    mark_y = models.PositiveSmallIntegerField(null=True, blank=True)
    landmarks = models.CharField(max_length=240, blank=True)
    getting_there = models.TextField(blank=True)
    dangers = models.JSONField(default=list, blank=True)
    pair = models.ForeignKey("self", models.PROTECT, null=True, blank=True, related_name="+")
    order = models.PositiveSmallIntegerField(default=0)

    objects = PointQuery.as_manager()

    own_limits: str | None
    """Given by kessa.places.services.with_own_limits()."""

    class Meta:
        ordering = ["water_id", "order", "id"]
        constraints = programme_constraints("water", "pair")

    def __str__(self) -> str:
        return f"{self.water.name}, {self.name}"

    @property
    def mark(self) -> tuple[str, str] | None:
        """Where in its photograph the sample is taken, in per cent of its width and height."""
        if self.mark_x is None or self.mark_y is None:
            return None
        return f"{self.mark_x / 10:g}", f"{self.mark_y / 10:g}"


class LimitAttachment(models.Model):
    """Which limit set holds at a water, or at one point of it alone, from a day on; an empty one:
    none; OF_ITS_WATER at a point: that of its water again. Inserted, never changed.

    valid_from: empty for what has always held.
    """

    OF_ITS_WATER = "of-its-water"

    programme = models.ForeignKey(Programme, models.PROTECT)
    water = models.ForeignKey(Water, models.PROTECT, related_name="limit_attachments")
    point = models.ForeignKey(Point, models.PROTECT, null=True, related_name="+")
    limit_set = models.CharField(max_length=60, blank=True)
    valid_from = models.DateTimeField(null=True)
    made_at = models.DateTimeField(default=clock.now)
    made_by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")

    objects = AttachmentQuery.as_manager()

    class Meta:
        constraints = programme_constraints("water", "point")
        indexes = [models.Index(fields=["water", "-valid_from"])]
        triggers = [insert_only()]

    def __str__(self) -> str:
        return f"{self.limit_set or 'no limits'} from {self.valid_from or 'the beginning'}"
