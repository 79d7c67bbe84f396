"""What follows from a run's events: evaluations, verdicts, and what pages read of them."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from django.db import transaction

from kessa.flows.companions import judge_companions
from kessa.library.models import Lot
from kessa.places.services import set_at
from kessa.platform.audit import record
from kessa.platform.hashes import seal_of
from kessa.platform.models import Person
from kessa.results.evaluations import evaluation_fields, is_same, keep_evaluation
from kessa.results.models import Evaluation, Result
from kessa.results.projections import project, refresh_latest, series_of
from kessa.results.services import reopen
from kessa.runs.lots import count_use
from kessa.runs.models import Run, RunLot
from kessa.runs.queries import RunQuery
from kessa.runs.services import set_finish, state_of
from kessa.runs.standards import failed_standards, note_standards
from kessa.verdicts.point_context import context_of
from kessa.verdicts.services import Judgement, judge_value, keep_verdicts, note_outcome
from kessa_core import VERSION
from kessa_core.judging.context import PointContext
from kessa_core.judging.outcomes import sentences
from kessa_core.runs import UNTESTED, Outcome, RunState, conclude

Shown = dict[str, dict[str, Any]]
"""What the bench page showed, by stage."""


@transaction.atomic
def evaluate(
    run: Run,
    state: RunState | None = None,
    by: Person | None = None,
    why: str = "",
    shown: Shown | None = None,
) -> list[Evaluation]:
    """Insert an evaluation for every outcome that is new or has changed, judge it, and bring the
    projections up to date; none while the run is unfinished.

    A run that was finished and is taken up again keeps its last evaluations, which await their
    reading until it finishes again. A result that was decided and changes goes back to review.
    *by* and *why*: who corrected what led here. *shown*: what the bench page showed.
    """
    state, before = state or state_of(run), run.finish
    seals, was_ended = set_finish(run, state.finish, by), bool(before)
    if run.finish != before:
        act = "run.ended" if state.finish else "run.resumed"
        record(run.programme, by, act, run, finish=state.finish, seals=seals)
    if state.finish or was_ended:
        count_use(run, state)
    kept = Result.objects.of(run.programme_id).select_related("current").filter(run=run)
    results = {result.stage: result for result in kept}
    touched = {series_of(result) for result in results.values()}
    made = []
    if state.finish:
        made = _evaluate_all(_Work(run, state, by, why, shown or {}), results)
    else:
        for result in results.values():
            _await_reading(result, by, why or "taken up again at the bench")
    touched |= {series_of(result) for result in results.values()}
    touched |= judge_companions(run.sample, {result.parameter for result in results.values()}, by)
    refresh_latest(touched)
    return made


def evaluate_lot(lot: Lot, by: Person | None, why: str) -> int:
    """Evaluate every ended run of a lot again, each in a transaction of its own; how many there
    are. Done twice it changes nothing."""
    numbers = list(ended_with(lot).values_list("pk", flat=True))
    for number in numbers:
        with transaction.atomic():
            held = Run.objects.of(lot.programme_id).select_for_update(of=("self",)).get(pk=number)
            evaluate(held, by=by, why=f"lot {lot.number}: {why}"[:240])
    return len(numbers)


def ended_with(lot: Lot) -> RunQuery:
    """The ended runs that were done with a lot, the oldest first."""
    done = RunLot.objects.done_with(lot).values("run")
    runs: RunQuery = Run.objects.of(lot.programme_id).filter(pk__in=done).exclude(finish="")
    return runs.order_by("opened_at", "pk")


class _Work:
    """One evaluation of a run: what is the same for each of its outcomes."""

    def __init__(
        self, run: Run, state: RunState, by: Person | None, why: str, shown: Shown
    ) -> None:
        self.run, self.state, self.by, self.why, self.shown = run, state, by, why, shown
        method, sample = run.method, run.sample
        self.limits = set_at(sample.point, sample.sampled_at)
        lots = run.core_lots
        self.context = context_of(sample, method.quantities, run.pk, lots, self.limits)

    def judged(self, outcome: Outcome) -> Judgement | None:
        """The outcome's value against the limits in force, with what is said of it."""
        if outcome.value is None:
            return None
        return judged(self.run, self.state, outcome, self.context)


def judged(run: Run, state: RunState, outcome: Outcome, context: PointContext) -> Judgement:
    """An outcome with a value against the limits of its point, with what is said of it.

    Raises ValueError without a value.
    """
    if outcome.value is None:
        raise ValueError(f"{outcome.stage} has no value")
    own = context.of(outcome.quantity)
    found = judge_value(outcome.value, own)
    said = sentences(run.method, state, outcome, found.leads, own)
    return Judgement(found.verdicts, found.leads, found.usual, tuple(said))


def reported(outcomes: Sequence[Outcome], state: RunState) -> list[Outcome]:
    """Those of a run's outcomes of which a result is made where there was none before."""
    return [one for one in outcomes if len(outcomes) == 1 or _reports(one, state)]


def judged_outcomes(run: Run, state: RunState) -> list[tuple[Outcome, Judgement | None]]:
    """What an ended run comes to with the lots that it holds, each judged; nothing is kept."""
    work = _Work(run, state, None, "", {})
    return [(one, work.judged(one)) for one in conclude(run.method, state, run.core_lots)]


def _evaluate_all(work: _Work, results: dict[str, Result]) -> list[Evaluation]:
    run, state = work.run, work.state
    note_standards(run, state, work.by)
    failed = failed_standards(run)
    outcomes = [
        replace(one, flags=(*one.flags, *failed))
        for one in conclude(run.method, state, run.core_lots)
    ]
    several = len(outcomes) > 1
    made = []
    for outcome in outcomes:
        stage = outcome.stage if several else ""
        if stage not in results and several and not _reports(outcome, state):
            continue
        own = work.shown.get("") if not several else None
        seen = work.shown.get(outcome.stage) or own
        result = results.setdefault(stage, _new_result(run, stage, outcome))
        made.append(_evaluate_one(work, result, outcome, seen))
    return made


def _new_result(run: Run, stage: str, outcome: Outcome) -> Result:
    return Result(
        programme_id=run.programme_id,
        run=run,
        stage=stage,
        parameter=outcome.quantity.parameter,
        point_id=run.sample.point_id,
        sampled_at=run.sample.sampled_at,
    )


def _reports(outcome: Outcome, state: RunState) -> bool:
    """Whether a stage was begun at all, or a difference came out.

    What follows a stopping place was not asked for. A run without any reading, and a stage that is
    not applicable, are answers all the same.
    """
    begun = {stage.id for stage in state.stages if any(d.ended_at for d in stage.determinations)}
    if outcome.value is not None or outcome.stage in begun:
        return True
    answered = outcome.finish == "not-applicable" or state.finish in UNTESTED
    return answered and outcome.stage in {stage.id for stage in state.stages}


def _evaluate_one(
    work: _Work, result: Result, outcome: Outcome, seen: dict[str, Any] | None
) -> Evaluation:
    judgement = work.judged(outcome)
    fields = evaluation_fields(work.run, work.state, outcome)
    shown = _differing(seen, outcome, judgement)
    before, why, seals = result.current, work.why, []
    if before and shown in ({}, before.shown) and is_same(before, fields):
        evaluation = before
    else:
        if before:
            why = why or _why_anew(before)
            reopen(result, work.by, why)
        else:
            result.save()
        made = {"shown": shown, "made_by": work.by, "why": why[:240]}
        evaluation = keep_evaluation(result, fields, **made)
        seals.append(seal_of([evaluation]))
    if judgement:
        sampled_at = work.run.sample.sampled_at
        judged = keep_verdicts(evaluation, judgement, work.limits, sampled_at, work.by)
        changed = evaluation is before and judgement.code != result.outcome_code
        if judged and changed and result.status == Result.Status.REVIEWED:
            reopen(result, work.by, why or "compared with the new limits")
        seals += judged
    project(result)
    note_outcome(result, judgement)
    if seals:
        said = {"evaluation": evaluation.pk, "why": why, "seals": seals}
        record(work.run.programme, work.by, "result.evaluated", result, **said)
    return evaluation


def _why_anew(before: Evaluation) -> str:
    newer = before.core_version != VERSION
    return f"recalculated by Kessa {VERSION}" if newer else "undone at the bench"


def _await_reading(result: Result, by: Person | None, why: str) -> None:
    """The run continues: its result awaits the reading, and one that was decided is reopened."""
    reopen(result, by, why)
    project(result)


def _differing(
    shown: dict[str, Any] | None, outcome: Outcome, judgement: Judgement | None
) -> dict[str, Any]:
    """What the page showed, where it is not what the server computed; else nothing. A page that
    could not yet tell the range says nothing of it."""
    if not shown or not outcome.value or not judgement:
        return {}
    value = outcome.value
    computed = {"f": value.figure, "r": value.range_text, "s": judgement.code}
    told = {key: computed[key] for key in computed if key in shown}
    return {} if all(shown[key] == told[key] for key in told) else shown
