"""What an evaluation holds of an outcome: plain columns, all of them from the core."""

from math import isclose
from typing import Any

from kessa.library.models import Lot, pair
from kessa.results.models import Evaluation, Result
from kessa.runs.models import Run
from kessa.visits.services import context_of
from kessa_core import VERSION
from kessa_core.judging.outcomes import notes
from kessa_core.methods.stage import Stage
from kessa_core.quantities import Value
from kessa_core.runs import Determination, Outcome, RunState

KEPT_THROUGH = ("core_version", "how", "traits")
"""What may differ without the outcome being another: a newer core, what it calls the reading type,
and what has been noted of the water since."""


def evaluation_fields(run: Run, state: RunState, outcome: Outcome) -> dict[str, Any]:
    """The columns of an evaluation of *outcome*, with every input that it depended on."""
    method = run.method
    return {
        "core_version": VERSION,
        "method_hash": run.version.hash,
        "lots": [lot_data(lot) for lot in run.resting_on],
        "instruments": instruments_data(run),
        "traits": list(run.sample.point.water.known_traits),
        "finish": outcome.finish,
        "decision": outcome.decision,
        "cause": outcome.cause[:240],
        "parameter": outcome.quantity.parameter,
        "working": outcome.working[:240],
        "flags": list(outcome.flags),
        "notes": notes(method, state, outcome, run.core_lots),
        "determinations": _determinations(run, state, outcome),
        "context": context_of(run.sample),
    } | (_value_fields(outcome.value) if outcome.value else {})


def lot_data(lot: Lot) -> dict[str, Any]:
    """A lot as a run used it: number and revision, the table or drop that came with it, what it
    finds of a standard, what a standard holds."""
    said: dict[str, Any] = {
        "reagent": lot.reagent, "number": lot.number, "revision": lot.revision,
    }  # fmt: skip
    if lot.table:
        said["table"] = lot.table
    if lot.drop:
        said["drop"] = list(lot.drop)
    if lot.recovery is not None:
        said["recovery"] = list(pair(lot.recovery, lot.recovery_sd))
    if lot.content is not None:
        said["content"] = list(pair(lot.content, lot.content_sd))
    return said


def instruments_data(run: Run) -> list[dict[str, Any]]:
    """What was noted of each instrument that the run is read with, by kind."""
    return [{"kind": kind, **used.noted} for kind, used in run.instruments.items()]


def is_same(current: Evaluation, fields: dict[str, Any]) -> bool:
    """Whether the outcome is the one that is recorded already."""
    return all(
        _alike(getattr(current, name), value)
        for name, value in fields.items()
        if name not in KEPT_THROUGH
    )


def keep_evaluation(result: Result, fields: dict[str, Any], **made: Any) -> Evaluation:
    """Insert an evaluation of *result*. *made*: shown, made_by and why."""
    return Evaluation.objects.create(
        programme_id=result.programme_id, result=result, **fields, **made
    )


def _value_fields(value: Value) -> dict[str, Any]:
    bracket = value.bracket or (None, None)
    sure = value.one_sided
    return {
        "form": value.quantity.form,
        "basis": value.quantity.basis,
        "unit": value.quantity.unit,
        "qualifier": value.qualifier,
        "number": value.number,
        "decimals": value.decimals,
        "rounding": value.rounding,
        "figure": value.figure[:60],
        "reported": value.reported,
        "low": value.interval.low,
        "high": value.interval.high,
        "one_sided": sure is not None,
        "sure_low": sure.low if sure else None,
        "sure_high": sure.high if sure else None,
        "bracket_low": bracket[0],
        "bracket_high": bracket[1],
        "said": value.said,
        "said_range": value.said_range,
        "kit_verdict": value.kit_verdict,
        "how": value.how,
    }


def _alike(was: Any, now: Any) -> bool:
    """Equal; figures up to what another order of the same sums may change."""
    if isinstance(was, float) and isinstance(now, float):
        return isclose(was, now, rel_tol=1e-9)
    return bool(was == now)


def _determinations(run: Run, state: RunState, outcome: Outcome) -> list[dict[str, Any]]:
    """Those of its stage; a difference has none of its own."""
    return [
        _determination(d, stage, run, outcome)
        for stage, held in zip(run.method.stages, state.stages, strict=True)
        if stage.id == outcome.stage
        for d in held.determinations
    ]


def _determination(d: Determination, stage: Stage, run: Run, outcome: Outcome) -> dict[str, Any]:
    reader = stage.reader(run.core_lots)
    return {
        "id": d.id,
        "role": d.role,
        "words": reader.format_reading(d.seen) if d.seen else reader.unread(d.count),
        "drops": d.count,
        "check_drops": d.check_drops,
        "rejected": d.rejected,
        "used": d.id in outcome.used,
        "at": d.ended_at,
    } | _more(d)


def _more(d: Determination) -> dict[str, Any]:
    """What only some have: what was typed, a dilution, what it was before a correction."""
    more: dict[str, Any] = {}
    if d.raw:
        more["raw"] = dict(d.raw)
    if d.diluted > 1:
        more["diluted"] = d.diluted
    if d.awaiting:
        more["awaiting"] = True
    if d.reader:
        more["reader"] = d.reader
    if d.waits:
        more["waited"] = [[w.step, round(w.seconds)] for w in d.waits]
    if d.corrections:
        more["was"] = [
            {"event": c.event, "words": c.was, "why": c.why, "at": c.at} for c in d.corrections
        ]
    return more
