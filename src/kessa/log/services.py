"""Evaluating a run: events -> result, by the core alone."""

from typing import Any

from kessa.bench.models import Event, Run
from kessa.log.models import Evaluation, Result
from kessa.log.setting import limits_of, setting_of
from kessa_core import VERSION
from kessa_core.judging import Verdict, judge, leading
from kessa_core.runs import Determination, Outcome, RunState, conclude, fold
from kessa_core.sheets import Setting
from kessa_core.sheets.rows import told


def state_of(run: Run) -> RunState:
    """The run's state from all its events."""
    return fold(run.version.method, [event.as_core() for event in Event.objects.of_run(run)])


def evaluate(run: Run, state: RunState | None = None) -> Evaluation | None:
    """Insert an evaluation where the outcome is new or has changed; None while unfinished.

    A run that was finished and is taken up again by an undo keeps its last evaluation and awaits
    its reading until it finishes anew.
    """
    state = state or state_of(run)
    if run.finish != state.finish:
        run.finish = state.finish
        run.save(update_fields=["finish"])
    if not state.finish:
        Result.objects.filter(run=run).update(status=Result.Status.AWAITING)
        return None
    outcome = conclude(run.version.method, state)
    result, _ = Result.objects.select_related("current").get_or_create(
        run=run,
        defaults={
            "programme_id": run.programme_id,
            "point_id": run.sample.point_id,
            "parameter": run.version.method.measures.parameter,
            "sampled_at": run.sample.taken_at,
        },
    )
    fields = _fields(run, state, outcome)
    made = result.current
    if made is None or not _same(made, fields):
        made = Evaluation.objects.create(programme_id=run.programme_id, result=result, **fields)
    if (result.current, result.status) != (made, Result.Status.PROVISIONAL):
        result.current, result.status = made, Result.Status.PROVISIONAL
        result.save(update_fields=["current", "status"])
    return made


def _same(current: Evaluation, fields: dict[str, Any]) -> bool:
    """Whether the outcome is the one already recorded. The place's normal may have moved on
    meanwhile; that alone changes no recorded result."""
    skip = ("sentences",)
    return all(
        getattr(current, name) == value for name, value in fields.items() if name not in skip
    )


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
    }


def _told(
    run: Run, state: RunState, outcome: Outcome, verdict: Verdict, setting: Setting
) -> list[str]:
    readings = [d.reading for d in state.samples if d.reading]
    blanks = [d.reading for d in state.blanks if d.reading]
    if outcome.value is None:
        return []
    return told(run.version.method, outcome.value, verdict, readings, blanks, setting)
