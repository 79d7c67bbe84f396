"""Photographs that wait to be read."""

from typing import Any, Self

from kessa.platform.scoping import ProgrammeQuerySet


class PhotoReadingQuery(ProgrammeQuerySet):
    """of(programme).waiting()"""

    def waiting(self) -> Self:
        """Those that somebody has still to read, the oldest first."""
        return self.exclude(wanted="").order_by("photographed_at", "pk")

    def waiting_for(self, person: Any) -> Self:
        """Those that this person may read: not a second time what they read first."""
        return self.waiting().exclude(wanted="second", read_by=person)

    def with_tests(self) -> Self:
        """Each with its test, point, lots and who took it."""
        return self.select_related(
            "run__version", "run__sample__point__water", "photographed_by", "read_by"
        ).prefetch_related("run__lots_used")
