"""Limit sets that a programme wrote itself."""

from functools import cached_property, lru_cache
from typing import Self

from django.db import models

from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import insert_only, programme_constraints
from kessa_core.judging import LimitSet
from kessa_core.judging.limit_sets import load_limits


class OwnLimitSet(models.Model):
    """A limit set of a programme, as its document says. Inserted, never changed: what is edited
    becomes another set, which is attached from a day on.

    family: what its editions share, empty for targets of one water; based_on: the set it was made
    from; what: what changed in it, or why it was made.
    """

    programme = models.ForeignKey(Programme, models.PROTECT)
    set_id = models.SlugField(max_length=60)
    family = models.SlugField(max_length=50, blank=True)
    based_on = models.SlugField(max_length=60, blank=True)
    what = models.CharField(max_length=240, blank=True)
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


class LimitDraftQuery(ProgrammeQuerySet):
    """of(programme).open()"""

    def open(self) -> Self:
        """Those that are still being written."""
        return self.filter(closed=False)


class LimitSetDraft(models.Model):
    """A limit set being written. data: what it says so far; revision counts its changes. family: of
    which it becomes the next edition, empty for a new one; based_on: what it was copied from.
    closed: published or thrown away."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    data = models.JSONField()
    revision = models.PositiveIntegerField(default=1)
    family = models.SlugField(max_length=50, blank=True)
    based_on = models.SlugField(max_length=60, blank=True)
    saved_by = models.ForeignKey(Person, models.PROTECT, related_name="+", db_index=False)
    saved_at = models.DateTimeField(default=clock.now)
    closed = models.BooleanField(default=False)

    objects = LimitDraftQuery.as_manager()

    class Meta:
        constraints = programme_constraints()
        ordering = ["-saved_at"]

    def __str__(self) -> str:
        return f"Draft: {self.data['title']}"


@lru_cache(maxsize=256)
def _loaded(document: str) -> LimitSet:
    return load_limits(document)
