"""What is usual at a point as its programme entered it, until there is enough history."""

from typing import Self

from django.db import models

from kessa.places.models import Point
from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import insert_only, programme_constraints
from kessa_core.quantities import Quantity
from kessa_core.trends.usual import Usual, entered_usual


class EnteredQuery(ProgrammeQuerySet):
    """of(programme).standing()"""

    def standing(self) -> Self:
        """What was entered last for each quantity of a point."""
        names = ("point_id", "parameter", "form", "basis", "unit")
        return self.order_by(*names, "-pk").distinct(*names)


class EnteredUsual(models.Model):
    """A band that somebody entered for a quantity at a point, and where it comes from; without a
    band: what was entered before no longer holds. Inserted, never changed."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    point = models.ForeignKey(Point, models.PROTECT, related_name="+")
    parameter = models.CharField(max_length=60)
    form = models.CharField(max_length=20, blank=True)
    basis = models.CharField(max_length=20, blank=True)
    unit = models.CharField(max_length=20, blank=True)
    low = models.FloatField(null=True)
    high = models.FloatField(null=True)
    source = models.CharField(max_length=240, blank=True)
    by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    at = models.DateTimeField(default=clock.now)

    objects = EnteredQuery.as_manager()

    class Meta:
        constraints = programme_constraints("point")
        triggers = [insert_only()]

    def __str__(self) -> str:
        return f"usual {self.parameter} {self.low}-{self.high}"

    @property
    def quantity(self) -> Quantity:
        return Quantity(self.parameter, self.form, self.basis, self.unit)

    @property
    def as_core(self) -> Usual | None:
        """The band as the core holds it; None where it was withdrawn."""
        if self.low is None or self.high is None:
            return None
        return entered_usual(self.low, self.high)
