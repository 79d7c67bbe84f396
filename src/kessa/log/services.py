"""Evaluating a run: events -> results, by the core alone; what stood before stays."""

from math import isclose
from typing import Any

from django.db import transaction
from django.utils import timezone

from kessa.accounts.models import Person
from kessa.bench.models import Event, Run
from kessa.log.fields import fields_of
from kessa.log.models import Evaluation, Result, Review
from kessa.log.setting import setting_of
from kessa.records.seals import SEAL, sha_of_evaluation
from kessa.records.services import record
from kessa_core import VERSION
from kessa_core.runs import UNTESTED, Outcome, RunState, conclude, fold
from kessa_core.sheets import Setting

Shown = dict[str, dict[str, Any]]
"""What the bench page showed, by stage."""


def state_of(run: Run) -> RunState:
    """The run's state from all its events."""
    events = [event.as_core() for event in Event.objects.of_run(run)]
    return fold(run.version.method, events, run.core_lots)


@transaction.atomic
def evaluate(
    run: Run,
    state: RunState | None = None,
    by: Person | None = None,
    why: str = "",
    shown: Shown | None = None,
) -> list[Evaluation]:
    """Insert an evaluation for every outcome that is new or has changed; none while unfinished.

    A run that was finished and is taken up again keeps its last evaluations, which await their
    reading until it finishes anew. A result that was decided and changes goes back to review.
    *by* and *why*: who corrected what led here. *shown*: what the bench page showed.
    """
    state = state or state_of(run)
    if run.finish != state.finish:
        run.finish = state.finish
        run.save(update_fields=["finish"])
    results = {r.stage: r for r in Result.objects.select_related("current").filter(run=run)}
    if not state.finish:
        for result in results.values():
            _reopen(result, Result.Status.AWAITING, by, why or "taken up again at the bench")
        return []
    method = run.version.method
    outcomes = conclude(method, state, run.core_lots)
    setting = setting_of(run.sample.point, method.quantities, run.pk, run.core_lots)
    several = len(outcomes) > 1
    made = []
    for outcome in outcomes:
        stage = outcome.stage if several else ""
        if stage not in results and several and not _reports(outcome, state):
            continue
        seen = (shown or {}).get(outcome.stage) or ((shown or {}).get("") if not several else None)
        result = results.get(stage) or Result(run=run, stage=stage, status="")
        made.append(_evaluate_one(run, result, state, outcome, setting, by, why, seen))
    return made


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
    run: Run,
    result: Result,
    state: RunState,
    outcome: Outcome,
    everywhere: Setting,
    by: Person | None,
    why: str,
    seen: dict[str, Any] | None,
) -> Evaluation:
    fields = fields_of(run, state, outcome, everywhere.of(outcome.quantity))
    shown = _differing(seen, outcome, fields["sign"] if outcome.value else "")
    result.programme_id = run.programme_id
    result.point_id, result.sampled_at = run.sample.point_id, run.sample.taken_at
    result.parameter = outcome.quantity.parameter
    made = result.current
    if made and shown in ({}, made.shown) and _same(made, fields):
        if result.status == Result.Status.AWAITING:
            _reopen(result, Result.Status.PROVISIONAL, by, why)
        return made
    if made:
        anew = f"computed anew by core {VERSION}"
        why = why or (anew if made.core_version != VERSION else "taken back at the bench")
        _reopen(result, Result.Status.PROVISIONAL, by, why)
    result.status = result.status or Result.Status.PROVISIONAL
    result.waits_for = Result.WaitsFor.REVIEWER
    result.save()
    made = Evaluation.objects.create(
        programme_id=run.programme_id,
        result=result,
        made_by=by,
        why=why[:240],
        shown=shown,
        **fields,
    )
    result.current = made
    result.save(update_fields=["current"])
    sha = sha_of_evaluation(made, SEAL)
    sealed = {"evaluation": made.pk, "sha": sha, "seal": SEAL, "why": why}
    record(run.programme, by, "result.evaluated", result, **sealed)
    return made


def _reopen(result: Result, status: Result.Status, by: Person | None, why: str) -> None:
    """The result stands differently; one that was decided goes back to review."""
    decided = result.status in (Result.Status.REVIEWED, Result.Status.REJECTED)
    if result.status == status:
        return
    was = result.status
    result.status = status
    awaiting = status == Result.Status.AWAITING
    result.waits_for = Result.WaitsFor.NOBODY if awaiting else Result.WaitsFor.REVIEWER
    result.save(update_fields=["status", "waits_for"])
    if decided:
        Review.objects.create(
            programme_id=result.programme_id,
            result=result,
            evaluation_id=result.current_id,
            by=by,
            at=timezone.now(),
            decision=Review.Decision.REOPENED,
            reason=why[:500],
        )
        record(result.programme, by, "result.reopened", result, was=was, why=why)


def _same(current: Evaluation, fields: dict[str, Any]) -> bool:
    """Whether the outcome is the one already recorded. The place's normal may have moved on
    meanwhile; that alone changes no recorded result, nor does a newer core or what it calls the
    way of reading."""
    skip = ("sentences", "core_version", "how")
    return all(
        _alike(getattr(current, name), value) for name, value in fields.items() if name not in skip
    )


def _alike(was: Any, now: Any) -> bool:
    """Equal; figures up to what another order of the same sums may change."""
    if isinstance(was, float) and isinstance(now, float):
        return isclose(was, now, rel_tol=1e-9)
    return bool(was == now)


def _differing(shown: dict[str, Any] | None, outcome: Outcome, sign: str) -> dict[str, Any]:
    """What the page showed, where it is not what the server computed; else nothing. A page that
    could not yet tell the range says nothing of it."""
    if not shown or not outcome.value:
        return {}
    computed = {"f": outcome.value.figure, "r": outcome.value.range_text, "s": sign}
    told = {key: computed[key] for key in computed if key in shown}
    return {} if all(shown[key] == told[key] for key in told) else shown
