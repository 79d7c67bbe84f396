"""Visits and samples in the words of the field."""

from datetime import timedelta
from typing import Any, Self

from kessa.platform import clock
from kessa.platform.scoping import ProgrammeQuerySet


class SampleQuery(ProgrammeQuerySet):
    """of(programme)"""

    def of(self, programme: Any) -> Self:
        return self.filter(programme=programme).select_related("point__water", "visit")

    def on_the_way(self) -> Self:
        """Begun within the last day, and neither taken nor given up."""
        since = clock.now() - timedelta(days=1)
        return self.filter(outcome="open", visit__begun_at__gte=since).order_by("-visit__begun_at")

    def not_taken(self) -> Self:
        return self.filter(outcome="not-taken")


class TestAskedQuery(ProgrammeQuerySet):
    """of(programme).open()"""

    def open(self) -> Self:
        """Those not begun yet, in the order they were asked for."""
        return self.filter(state="asked").order_by("pk")
