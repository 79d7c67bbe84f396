"""Methods, lots and instruments in the domain's words."""

from collections.abc import Iterable
from typing import Any, Self

from django.db.models import Q

from kessa.platform.scoping import ProgrammeQuerySet


class MethodVersionQuery(ProgrammeQuerySet):
    """of(programme).newest()"""

    def newest(self) -> Self:
        """The newest version of each method."""
        return self.order_by("method_id", "-version", "-own").distinct("method_id")

    def numbered(self, number: str) -> Self:
        """The one with this number: 1, or 1.2 for the second set of own choices."""
        version, _, own = number.partition(".")
        return self.filter(version=int(version), own=int(own or 0))


class DraftQuery(ProgrammeQuerySet):
    """of(programme).open()"""

    def open(self) -> Self:
        """Those still being written, the one saved last first."""
        return self.filter(published=None, closed=False)


class LotQuery(ProgrammeQuerySet):
    """of(programme).newest_of(reagents)"""

    def newest_of(self, names: Iterable[str]) -> dict[str, Any]:
        """The lot noted last of each of these reagents, in one query; none without a name."""
        wanted = [name for name in names if name]
        if not wanted:
            return {}
        lots = self.filter(reagent__in=wanted, in_use=True)
        newest = lots.order_by("reagent", "-id").distinct("reagent")
        return {lot.reagent: lot for lot in newest}


class InstrumentQuery(ProgrammeQuerySet):
    """of(programme).of_kinds(kinds)"""

    def of_kinds(self, kinds: Iterable[str]) -> Self:
        """Those in use that can be an instrument of one of these kinds, the newest first."""
        wanted = Q(pk__in=[])
        for kind in kinds:
            wanted |= Q(kinds__contains=[kind])
        return self.filter(wanted, in_use=True).order_by("-id")
