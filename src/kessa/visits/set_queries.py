"""Sets and calendar feeds in the words of the field."""

from typing import Any, Self

from django.contrib.postgres.expressions import ArraySubquery
from django.db.models import OuterRef

from kessa.platform.scoping import ProgrammeQuerySet


class SetQuery(ProgrammeQuerySet):
    """of(programme).in_use()"""

    def of(self, programme: Any) -> Self:
        return self.filter(programme=programme).select_related("lead", "companion", "case")

    def at(self, point: Any) -> Self:
        """Those that ask something at a point."""
        return self.filter(asked__contains=[{"point": point.pk}])

    def for_lists(self) -> Self:
        """What it is called, when it is due, who goes."""
        slim = self.select_related(None).select_related("lead").with_days_done()
        return slim.only(
            "programme", "name", "asked", "rhythm", "begins", "called_on", "lead__username",
            "lead__shown_name",
        )  # fmt: skip

    def with_days_done(self) -> Self:
        """Each with the days of its rhythm that visits were made for, as *days_done*."""
        visits = self.model._meta.get_field("visits").related_model
        of_set = visits._base_manager.filter(set=OuterRef("pk"), due_on__isnull=False)
        return self.annotate(days_done=ArraySubquery(of_set.values("due_on")))

    def in_use(self) -> Self:
        """Those that are still done."""
        return self.filter(in_use=True)


class CalendarFeedQuery(ProgrammeQuerySet):
    """of(programme).active(); or the one with the hash of a token."""

    scope_columns = ("programme_id", "hash")

    def active(self) -> Self:
        """Those that were not revoked."""
        return self.filter(revoked_at=None)

    def for_person(self, person: Any) -> Self:
        return self.filter(person=person)
