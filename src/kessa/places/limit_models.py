"""Limit sets that a programme wrote itself."""

from functools import cached_property, lru_cache

from django.db import models

from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import insert_only, programme_constraints
from kessa_core.judging import LimitSet
from kessa_core.judging.limits import load_limits


class OwnLimitSet(models.Model):
    """A limit set of a programme, as its document says. Inserted, never changed: what is edited
    becomes another set, which is attached from a day on."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    set_id = models.SlugField(max_length=60)
    document = models.TextField()
    made_by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    made_at = models.DateTimeField(default=clock.now)

    objects = ProgrammeQuerySet.as_manager()

    class Meta:
        constraints = [
            *programme_constraints(),
            models.UniqueConstraint(fields=["programme", "set_id"], name="own_limit_set_once"),
        ]
        triggers = [insert_only()]

    def __str__(self) -> str:
        return self.as_core.title

    @cached_property
    def as_core(self) -> LimitSet:
        """The set as the core holds it."""
        return _loaded(self.document)


@lru_cache(maxsize=256)
def _loaded(document: str) -> LimitSet:
    return load_limits(document)
