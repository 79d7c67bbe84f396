"""What correcting a lot would change in its results, before anything is."""

from collections.abc import Iterable, Sequence
from copy import copy
from dataclasses import dataclass, field
from typing import Any

from kessa.flows.evaluating import ended_with, judged_outcomes
from kessa.library.models import Lot
from kessa.results.models import Result, sign_of
from kessa.runs.models import Run
from kessa.runs.services import events_of_each, state_of
from kessa_core.runs import Event

MOST = 200
"""Tests that are computed before somebody decides; the others change by the same figures."""


@dataclass(frozen=True)
class Change:
    """One result as it stands and as it would be: figure, range, verdict."""

    result: Result
    figure: str
    range_text: str
    verdict: str

    @property
    def is_reviewed(self) -> bool:
        """Whether somebody has decided about it."""
        return bool(self.result.status == Result.Status.REVIEWED)

    @property
    def sign(self) -> str:
        """The sign of the verdict that it would have."""
        return sign_of(self.verdict)

    @property
    def turns(self) -> bool:
        """Whether the verdict becomes another one."""
        return self.verdict != self.result.outcome_code


@dataclass
class Preview:
    """tests: how many used the lot, of which *computed* were computed; changes: results with
    another figure, range or verdict, another verdict first, then the newest; reviewed: results
    that somebody decided on.
    """

    tests: int
    computed: int
    changes: list[Change] = field(default_factory=list)
    reviewed: int = 0

    @property
    def turning(self) -> int:
        """Results whose verdict becomes another one."""
        return sum(change.turns for change in self.changes)


def preview(lot: Lot, described: dict[str, Any]) -> Preview:
    """What the results of a lot would be if this were recorded of it. Nothing is kept."""
    corrected = copy(lot)
    for name, value in described.items():
        setattr(corrected, name, value)
    runs = list(ended_with(lot).reverse()[:MOST])
    found = Preview(ended_with(lot).count(), len(runs))
    kept = Result.objects.of(lot.programme_id).filter(run__in=runs).for_lists()
    by_run: dict[Any, list[Result]] = {}
    for result in kept:
        by_run.setdefault(result.run_id, []).append(result)
    events = events_of_each(lot.programme_id, runs)
    for run in runs:
        results = by_run.get(run.pk, [])
        found.reviewed += sum(one.status == Result.Status.REVIEWED for one in results)
        found.changes += _changes(run, corrected, results, events[run.pk])
    found.changes.sort(key=lambda change: not change.turns)
    return found


def _changes(
    run: Run, corrected: Lot, results: Iterable[Result], events: Sequence[Event]
) -> list[Change]:
    run.lots = [corrected if lot.pk == corrected.pk else lot for lot in run.lots]
    judged = judged_outcomes(run, state_of(run, events))
    several = len(judged) > 1
    would_be = {one[0].stage if several else "": one for one in judged}
    made = []
    for result in results:
        before = result.current.value if result.current else None
        if result.stage not in would_be or before is None:
            continue
        outcome, judgement = would_be[result.stage]
        now = outcome.value
        if now is None:
            continue
        code = judgement.code if judgement else result.outcome_code
        same = (now.figure, now.range_text) == (before.figure, before.range_text)
        if not same or code != result.outcome_code:
            made.append(Change(result, now.text, now.range_text, code))
    return made
