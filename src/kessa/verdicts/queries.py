"""Verdicts in the words of the field."""

from collections import defaultdict
from collections.abc import Collection
from typing import Any

from kessa.platform.scoping import ProgrammeQuerySet


class VerdictQuery(ProgrammeQuerySet):
    """of(programme).newest_rounds(evaluations)"""

    def newest_rounds(self, evaluations: Collection[int]) -> dict[int, list[Any]]:
        """The newest round of verdicts on each of these evaluations, by its number, the leading one
        first; in one query."""
        made = self.filter(evaluation_id__in=list(evaluations)).select_related("limit")
        found: dict[int, list[Any]] = defaultdict(list)
        for verdict in made.order_by("-round", "-leads", "pk"):
            kept = found[verdict.evaluation_id]
            if not kept or kept[0].round == verdict.round:
                kept.append(verdict)
        return found
