"""Sets and calendar feeds in the words of the field."""

from typing import Any, Self

from kessa.platform.scoping import ProgrammeQuerySet


class SetQuery(ProgrammeQuerySet):
    """of(programme).in_use()"""

    def of(self, programme: Any) -> Self:
        return self.filter(programme=programme).select_related("lead", "companion", "case")

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
