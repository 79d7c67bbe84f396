"""Verdicts in the words of the field."""

from collections import defaultdict
from collections.abc import Collection
from datetime import datetime
from typing import Any, Self

from django.db.models import Exists, OuterRef, Q

from kessa.platform.scoping import ProgrammeQuerySet
from kessa.results.models import Result


class VerdictQuery(ProgrammeQuerySet):
    """of(programme).newest_rounds(evaluations); of(programme).against(limits)"""

    def for_lists(self) -> Self:
        """Without what was said and usual, which only a result's page shows."""
        return self.defer("sentences", "usual", "core_version", "judged_at", "judged_by", "batch")

    def against(self, limits: Collection[int]) -> Self:
        """The last verdict against any of these limits on each evaluation that is current; a later
        round may have judged it against others since. *limits*: one limit in its editions."""
        later = self.filter(
            evaluation=OuterRef("evaluation_id"), limit__in=list(limits),
            round__gt=OuterRef("round"),
        )  # fmt: skip
        current = Result.objects.filter(
            current=OuterRef("evaluation_id"), programme=OuterRef("programme_id")
        )
        return self.filter(~Exists(later), Exists(current), limit__in=list(limits)).for_lists()

    def newest_first(self) -> Self:
        return self.order_by("-in_force_at", "-id")

    def oldest_first(self) -> Self:
        return self.order_by("in_force_at", "id")

    def older_than(self, at: datetime, number: int) -> Self:
        """What comes after (at, number) in newest_first()."""
        return self.filter(Q(in_force_at__lt=at) | Q(in_force_at=at, pk__lt=number))

    def newer_than(self, at: datetime, number: int) -> Self:
        """What comes before (at, number) in newest_first()."""
        return self.filter(Q(in_force_at__gt=at) | Q(in_force_at=at, pk__gt=number))

    def newest_rounds(self, evaluations: Collection[int]) -> dict[int, list[Any]]:
        """The newest round of verdicts on each of these evaluations, by its number, the leading one
        first, each with its limit; in one query, where the limits have been read before."""
        rounds = self.filter(evaluation_id__in=list(evaluations))
        found: dict[int, list[Any]] = defaultdict(list)
        for verdict in rounds.order_by("-round", "-leads", "pk"):
            newest = found[verdict.evaluation_id]
            if not newest or newest[0].round == verdict.round:
                newest.append(verdict)
        give_limits([verdict for newest in found.values() for verdict in newest])
        return found


MOST_KEPT = 5000
_kept: dict[int, Any] = {}
"""Limits as they stood, by number. They are inserted and never changed, few, and in every list."""


def give_limits(verdicts: list[Any]) -> None:
    """Give each verdict the limit it names, from what this process has read already."""
    named = [verdict for verdict in verdicts if verdict.limit_id]
    limits = {number: _kept.get(number) for number in {verdict.limit_id for verdict in named}}
    if missing := [number for number, limit in limits.items() if limit is None]:
        every = named[0]._meta.get_field("limit").related_model.objects
        read = every.of(named[0].programme_id).in_bulk(missing)
        limits |= read
        if len(_kept) > MOST_KEPT:
            _kept.clear()
        _kept.update(read)
    for verdict in named:
        verdict.limit = limits[verdict.limit_id]
