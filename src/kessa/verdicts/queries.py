"""Verdicts in the words of the field."""

from collections import defaultdict
from collections.abc import Iterable
from typing import Any, Self

from kessa.platform.scoping import ProgrammeQuerySet


class VerdictQuery(ProgrammeQuerySet):
    """of(programme).standing_of(results)"""

    def standing_of(self, results: Iterable[Any]) -> dict[int, list[Any]]:
        """The newest verdicts on each result's current evaluation, by result, the leads one
        first; in one query."""
        current = {r.current_id: r for r in results if r.current_id}
        made = self.filter(evaluation_id__in=list(current)).select_related("limit")
        found: dict[int, list[Any]] = defaultdict(list)
        for verdict in made.order_by("-round", "-leads", "pk"):
            result = current[verdict.evaluation_id]
            verdict.evaluation = result.current
            kept = found[result.pk]
            if not kept or kept[0].round == verdict.round:
                kept.append(verdict)
        return found

    def on(self, evaluation: Any) -> Self:
        """Every verdict on this evaluation, the newest round first, the leads one first."""
        mine = self.filter(programme_id=evaluation.programme_id, evaluation=evaluation)
        return mine.select_related("limit").order_by("-round", "-leads", "pk")
