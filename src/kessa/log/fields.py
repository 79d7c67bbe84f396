"""What an evaluation holds of an outcome: plain fields, all of them from the core."""

from typing import Any

from kessa.bench.models import Run
from kessa.log.setting import limits_of
from kessa.visits.services import standing
from kessa_core import VERSION
from kessa_core.methods.stage import Stage
from kessa_core.runs import Determination, Outcome, RunState
from kessa_core.sheets import Setting
from kessa_core.sheets.outcomes import sentences
from kessa_core.sheets.rows import verdict_of


def fields_of(run: Run, state: RunState, outcome: Outcome, setting: Setting) -> dict[str, Any]:
    """The fields; *setting* is the one of the outcome's quantity."""
    value, method = outcome.value, run.version.method
    held = limits_of(run.sample.point)
    fields: dict[str, Any] = {
        "core_version": VERSION,
        "method_hash": run.version.hash,
        "lots": [
            {"reagent": lot.reagent, "number": lot.number, "revision": lot.revision}
            for lot in run.lots
        ],
        "limit_set": held.id if held else "",
        "limit_edition": held.edition if held else "",
        "finish": outcome.finish,
        "decision": outcome.decision,
        "cause": outcome.cause[:240],
        "working": outcome.working[:240],
        "flags": list(outcome.flags),
        "sentences": [],
        "determinations": _determinations(run, state, outcome, setting),
        "context": standing(run.sample),
    }
    if value is None:
        return fields
    verdict = verdict_of(value, setting)
    bracket = value.bracket or (None, None)
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
        "bracket_low": bracket[0],
        "bracket_high": bracket[1],
        "said": value.said,
        "said_range": value.said_range,
        "how": value.how,
        "sign": verdict.sign,
        "reported_sign": verdict.reported_sign,
        "limit_id": verdict.limit.id if verdict.limit else "",
        "against": verdict.against,
        "sentences": sentences(method, state, outcome, verdict, setting),
    }


def _determinations(
    run: Run, state: RunState, outcome: Outcome, setting: Setting
) -> list[dict[str, Any]]:
    """Those of its stage; a difference has none of its own."""
    return [
        _determination(d, stage, outcome, setting)
        for stage, held in zip(run.version.method.stages, state.stages, strict=True)
        if stage.id == outcome.stage
        for d in held.determinations
    ]


def _determination(
    d: Determination, stage: Stage, outcome: Outcome, setting: Setting
) -> dict[str, Any]:
    reader = stage.reader(setting.lots)
    unread = f"{d.count}, not ended" if reader.counts else "not read"
    return {
        "id": d.id,
        "role": d.role,
        "words": reader.said(d.seen) if d.seen else unread,
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
    if d.waits:
        more["waited"] = [[w.step, round(w.seconds)] for w in d.waits]
    if d.corrections:
        more["was"] = [
            {"event": c.event, "words": c.was, "why": c.why, "at": c.at} for c in d.corrections
        ]
    return more
