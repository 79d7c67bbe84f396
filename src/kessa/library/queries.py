"""Methods, lots and instruments in the domain's words."""

from collections.abc import Callable, Iterable
from typing import Any, Self

from django.db.models import Q, Sum
from django.db.models.functions import Coalesce
from django.utils import timezone

from kessa.platform import clock
from kessa.platform.scoping import ProgrammeQuerySet

Nearness = Callable[[int], int]
"""Of the number of a lot or an instrument: more is nearer (kessa.library.cases)."""


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

    def newest_of(self, names: Iterable[str], near: Nearness = lambda _: 0) -> dict[str, Any]:
        """Of each of these reagents the lot that is still good, of those the nearest, of those the
        one noted last; in one query; none without a name. near: of a lot's number, more is nearer.
        """
        wanted = [name for name in names if name]
        if not wanted:
            return {}
        today = timezone.localdate(clock.now())
        found: dict[str, Any] = {}
        for lot in self.filter(reagent__in=wanted, in_use=True).order_by("id"):
            rank = (lot.is_good_on(today), near(lot.pk))
            if lot.reagent not in found or rank >= found[lot.reagent][0]:
                found[lot.reagent] = (rank, lot)
        return {reagent: lot for reagent, (_, lot) in found.items()}

    def with_use(self) -> Self:
        """Each with what tests took of it, as *used*."""
        return self.annotate(used=Coalesce(Sum("uses__amount"), 0.0))

    def in_stock(self) -> Self:
        """Those in use, by reagent, the newest first."""
        return self.filter(in_use=True).order_by("reagent", "-id")


class InstrumentQuery(ProgrammeQuerySet):
    """of(programme).of_kinds(kinds)"""

    def of_kinds(self, kinds: Iterable[str]) -> Self:
        """Those in use that can be an instrument of one of these kinds, the newest first."""
        wanted = Q(pk__in=[])
        for kind in kinds:
            wanted |= Q(kinds__contains=[kind])
        return self.filter(wanted, in_use=True).order_by("-id")
