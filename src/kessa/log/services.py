"""Evaluating a run: events -> result, by the core alone; what stood before stays."""

from typing import Any

from django.db import transaction
from django.utils import timezone

from kessa.accounts.models import Person
from kessa.bench.models import Event, Run
from kessa.log.models import Evaluation, Result, Review
from kessa.log.setting import limits_of, setting_of
from kessa.records.seals import sha_of_evaluation
from kessa.records.services import record
from kessa.visits.services import standing
from kessa_core import VERSION
from kessa_core.judging import Verdict, judge, leading
from kessa_core.runs import Determination, Outcome, RunState, conclude, fold
from kessa_core.sheets import Setting
from kessa_core.sheets.rows import told


def state_of(run: Run) -> RunState:
    """The run's state from all its events."""
    return fold(run.version.method, [event.as_core() for event in Event.objects.of_run(run)])


@transaction.atomic
def evaluate(
    run: Run,
    state: RunState | None = None,
    by: Person | None = None,
    why: str = "",
    shown: dict[str, Any] | None = None,
) -> Evaluation | None:
    """Insert an evaluation where the outcome is new or has changed; None while unfinished.

    A run that was finished and is taken up again keeps its last evaluation and awaits its reading
    until it finishes anew. A result that was decided and changes goes back to review. *by* and
    *why*: who corrected what led here. *shown*: what the bench page showed, if it differed.
    """
    state = state or state_of(run)
    if run.finish != state.finish:
        run.finish = state.finish
        run.save(update_fields=["finish"])
    result = Result.objects.select_related("current").filter(run=run).first()
    if not state.finish:
        if result:
            _reopen(result, Result.Status.AWAITING, by, why or "taken up again at the bench")
        return None
    outcome = conclude(run.version.method, state)
    fields = _fields(run, state, outcome)
    shown = _differing(shown, outcome, fields["sign"] if outcome.value else "")
    result = result or Result(run=run, programme_id=run.programme_id, status="")
    result.point_id, result.sampled_at = run.sample.point_id, run.sample.taken_at
    result.parameter = run.version.method.measures.parameter
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
    sealed = {"evaluation": made.pk, "sha": sha_of_evaluation(made), "why": why}
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
    meanwhile; that alone changes no recorded result, nor does a newer core."""
    skip = ("sentences", "core_version")
    return all(
        getattr(current, name) == value for name, value in fields.items() if name not in skip
    )


def _differing(shown: dict[str, Any] | None, outcome: Outcome, sign: str) -> dict[str, Any]:
    """What the page showed, where it is not what the server computed; else nothing."""
    if not shown or not outcome.value:
        return {}
    computed = {"f": outcome.value.figure, "r": outcome.value.range_text, "s": sign}
    return {} if all(shown.get(key) == computed[key] for key in computed) else shown


def _fields(run: Run, state: RunState, outcome: Outcome) -> dict[str, Any]:
    value = outcome.value
    held = limits_of(run.sample.point)
    fields: dict[str, Any] = {
        "core_version": VERSION,
        "method_hash": run.version.hash,
        "lot_revision": run.lot.revision if run.lot else None,
        "limit_set": held.id if held else "",
        "limit_edition": held.edition if held else "",
        "finish": outcome.finish,
        "decision": outcome.decision,
        "cause": outcome.cause[:240],
        "working": outcome.working[:240],
        "flags": list(outcome.flags),
        "sentences": [],
        "determinations": [_determination(d, outcome) for d in state.determinations],
        "context": standing(run.sample),
    }
    if value is None:
        return fields
    setting = setting_of(run.sample.point, value.quantity, leave_out=run.pk)
    verdict = leading(judge(value, limit) for limit in setting.limits)
    return fields | {
        "qualifier": value.qualifier,
        "number": value.number,
        "decimals": value.decimals,
        "rounding": value.rounding,
        "form": value.quantity.form,
        "basis": value.quantity.basis,
        "unit": value.quantity.unit,
        "low": value.interval.low,
        "high": value.interval.high,
        "sign": verdict.sign,
        "reported_sign": verdict.reported_sign,
        "limit_id": verdict.limit.id if verdict.limit else "",
        "against": verdict.against,
        "sentences": _told(run, state, outcome, verdict, setting),
    }


def _determination(d: Determination, outcome: Outcome) -> dict[str, Any]:
    return {
        "id": d.id,
        "role": d.role,
        "words": d.reading.words if d.reading else f"{d.count}, not ended",
        "drops": d.count,
        "check_drops": d.check_drops,
        "rejected": d.rejected,
        "used": d.id in outcome.used,
        "at": d.ended_at,
    } | _was(d)


def _was(d: Determination) -> dict[str, Any]:
    """What a corrected reading was before, oldest first."""
    was = [{"event": c.event, "words": c.was, "why": c.why, "at": c.at} for c in d.corrections]
    return {"was": was} if was else {}


def _told(
    run: Run, state: RunState, outcome: Outcome, verdict: Verdict, setting: Setting
) -> list[str]:
    readings = [d.reading for d in state.samples if d.reading]
    blanks = [d.reading for d in state.blanks if d.reading]
    if outcome.value is None:
        return []
    return told(run.version.method, outcome.value, verdict, readings, blanks, setting)
