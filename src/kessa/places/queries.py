"""Waters, points and attached limits in the words of the field."""

from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import Any, Self

from django.db.models import F, Q

from kessa.platform.scoping import ProgrammeQuerySet


class PointQuery(ProgrammeQuerySet):
    """of(programme)"""

    def of(self, programme: Any) -> Self:
        return self.filter(programme=programme).select_related("water", "pair__water")

    def for_lists(self) -> Self:
        """What a row of a list shows: the water, its name and the place."""
        related = self.select_related(None).select_related("water")
        return related.only("programme", "order", "name", "place", "latitude", "longitude",
                            "water__programme", "water__name", "water__kind",
                            "water__traits", "water__facts")  # fmt: skip

    def give_to(self, rows: Sequence[Any], known: Iterable[Any] = ()) -> None:
        """Give each row its point: from the *known* ones, the others read in one query. A page of
        rows has few points, and most pages have read them already."""
        found = {point.pk: point for point in known}
        if missing := {row.point_id for row in rows} - found.keys():
            found |= self.for_lists().in_bulk(missing)
        for row in rows:
            row.point = found[row.point_id]


class AttachmentQuery(ProgrammeQuerySet):
    """of(programme).at_water(water).in_force(at)"""

    def at_water(self, water: Any) -> Self:
        """Those of a water, and of its points."""
        return self.filter(water=water)

    def of_waters(self) -> Self:
        """Those that are for all of a water."""
        return self.filter(point=None)

    def in_force(self, at: datetime) -> Self:
        """What holds at *at* first: the latest that had begun; one without a date always had."""
        begun = self.filter(Q(valid_from=None) | Q(valid_from__lte=at))
        return begun.order_by("water_id", F("valid_from").desc(nulls_last=True), "-id")
