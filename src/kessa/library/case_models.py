"""Cases: which lots and instruments are carried together, and who has them."""

from django.db import models

from kessa.platform.models import Person, Programme
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import programme_constraints


class CaseQuery(ProgrammeQuerySet):
    """of(programme).in_use()"""

    def in_use(self) -> "CaseQuery":
        """Those that are still carried."""
        return self.filter(in_use=True)


class KitCase(models.Model):
    """A case, bag or shelf. lots, instruments: the numbers of what is in it, each in one case only
    (kessa.library.cases.change_case). held_by: the person who has it, who is offered it first."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    name = models.CharField(max_length=60)
    held_by = models.ForeignKey(Person, models.PROTECT, null=True, blank=True, related_name="+")
    lots = models.JSONField(default=list)
    instruments = models.JSONField(default=list)
    in_use = models.BooleanField(default=True)

    objects = CaseQuery.as_manager()

    class Meta:
        constraints = programme_constraints()
        ordering = ["name", "pk"]

    def __str__(self) -> str:
        return self.name
