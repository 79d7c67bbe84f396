"""./kessa run METHOD EVENTS [--json]: compute results from an event file and a method."""

import json
import sys
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from kessa_core.cli.documents import find_method
from kessa_core.errors import BadEvent, CoreError
from kessa_core.judging.limits import Limit
from kessa_core.judging.verdict import judge
from kessa_core.methods import Method, load
from kessa_core.methods.local_settings import LocalSettings, with_local_settings
from kessa_core.readings.lots import Lot, Lots
from kessa_core.runs import Determination, Outcome, RunState, conclude, fold
from kessa_core.runs.export import read


def main(arguments: list[str]) -> int:
    """Print state, determinations, result, interval and flags of each run in the file."""
    plain = [argument for argument in arguments if argument != "--json"]
    if len(plain) != 2:
        raise CoreError("Give a method (id or file) and a file of events, or - for standard input.")
    found = find_method(plain[0])
    text = sys.stdin.read() if plain[1] == "-" else Path(plain[1]).read_text("utf-8")
    runs = read(text)
    if not runs:
        raise BadEvent("There is no event in this file.")
    for context, events in runs:
        kind = str(context.get("water_kind") or "")
        lots, method = lots_of(context), with_own_settings(found, context).in_water(kind)
        state = fold(method, events, lots)
        answer = report(method, state, conclude(method, state, lots), context)
        if "--json" in arguments:
            print(json.dumps(answer, ensure_ascii=False))
        else:
            _print(answer)
    return 0


def with_own_settings(method: Method, context: dict[str, Any]) -> Method:
    """The kit's method with the programme's choices that the context line carries, if any."""
    named = (context.get("method") or {}).get("local_settings")
    if not named or method.local_settings:
        return method
    try:
        made = LocalSettings.model_validate(named)
    except ValidationError:
        raise BadEvent("The choices in the context line cannot be read.") from None
    return load(with_local_settings(method, made.wanted, made.by, made.number, made.date, made.why))


def lots_of(context: dict[str, Any]) -> Lots:
    """The lots as the context line of a run's file carries them."""
    return Lots(
        tuple(
            Lot.noted(
                str(held.get("reagent") or ""),
                str(held.get("number") or ""),
                held.get("table") or (),
                held.get("drop") or (),
                held.get("recovery") or (),
                held.get("content") or (),
            )
            for held in context.get("lots") or ()
        )
    )


def report(
    method: Method, state: RunState, outcomes: tuple[Outcome, ...], context: dict[str, Any]
) -> dict[str, Any]:
    """Everything that follows from the events, as plain data.

    `results` holds every stage and difference; the first stage's also stands for itself, as files
    and scripts of single-stage methods expect it.
    """
    known = context.get("method", {}).get("hash", method.hash)
    used = {name for outcome in outcomes for name in outcome.used}
    reported = [_outcome(outcome, context) for outcome in outcomes]
    return {
        "method": {"id": method.id, "version": method.version, "hash": method.hash},
        "method_matches": known == method.hash,
        "place": {"spot": state.place.spot, "step": state.place.step},
        "finish": state.finish,
        "determinations": [
            _determination(method, stage_at, d, d.id in used)
            for stage_at, stage in enumerate(state.stages)
            for d in stage.determinations
        ],
        "results": reported,
        **{key: value for key, value in reported[0].items() if key not in ("stage", "finish")},
        "unfit": [{"event": event, "reason": reason} for event, reason in state.ignored],
        "undone": sorted(state.undone),
    }


def _determination(method: Method, at: int, d: Determination, used: bool) -> dict[str, Any]:
    reader = method.stages[at].reader()
    return {
        "id": d.id,
        "role": d.role,
        "drops": d.count,
        "kind": d.kind,
        "reported_drops": reader.half_steps(d.seen) / 2 if d.seen else None,
        "said": reader.format_reading(d.seen) if d.seen else "",
        "raw": d.raw,
        "diluted": d.diluted,
        "check_drops": d.check_drops,
        "rejected": d.rejected,
        "was": [{"drops": c.was, "why": c.why, "at": c.at} for c in d.corrections],
        "used": used,
        "drop_times": d.drop_times,
        "waits": [{"step": w.step, "seconds": round(w.seconds, 1)} for w in d.waits],
    }


def _outcome(outcome: Outcome, context: dict[str, Any]) -> dict[str, Any]:
    return {
        "stage": outcome.stage,
        "finish": outcome.finish,
        "decision": outcome.decision,
        "result": _result(outcome),
        "verdicts": _verdicts(outcome, context),
        "cause": outcome.cause,
        "apart": outcome.apart,
        "flags": list(outcome.flags),
        "checks": list(outcome.checks),
    }


def _result(outcome: Outcome) -> dict[str, Any] | None:
    value = outcome.value
    if value is None:
        return None
    return {
        "parameter": value.quantity.parameter,
        "form": value.quantity.form,
        "basis": value.quantity.basis,
        "unit": value.quantity.unit,
        "qualifier": value.qualifier,
        "number": value.number,
        "figure": value.figure,
        "bracket": list(value.bracket) if value.bracket else None,
        "text": value.text,
        "low": value.interval.low,
        "high": value.interval.high,
        "interval": value.range_text,
        "one_sided": [value.one_sided.low, value.one_sided.high] if value.one_sided else None,
        "working": outcome.working,
    }


def _verdicts(outcome: Outcome, context: dict[str, Any]) -> list[dict[str, str]]:
    if outcome.value is None:
        return []
    limits = [Limit.model_validate(raw) for raw in context.get("limits", [])]
    of = outcome.quantity.parameter
    judged = [judge(outcome.value, one) for one in limits if one.parameter == of]
    return [
        {
            "limit": verdict.limit.id if verdict.limit else "",
            "interval": verdict.interval_sign,
            "reported": verdict.reported_sign,
            "sentence": verdict.sentence,
            "as_printed": verdict.as_printed,
        }
        for verdict in judged
    ]


def _print(answer: dict[str, Any]) -> None:
    place = answer["place"]
    print(f"{answer['method']['id']} version {answer['method']['version']}")
    if not answer["method_matches"]:
        print("The events were made with another document than this one.")
    print(f"at: {place['spot']} {place['step']}".rstrip())
    for d in answer["determinations"]:
        note = f", rejected: {d['rejected']}" if d["rejected"] else ", used" if d["used"] else ""
        diluted = f", diluted {d['diluted']} times" if d["diluted"] > 1 else ""
        print(f"{d['id']}: {d['said'] or d['drops']}{diluted}{note}")
    for one in answer["results"]:
        if len(answer["results"]) > 1:
            print(f"-- {one['stage']}: {one['finish']}")
        if one["result"]:
            print(one["result"]["working"])
            print(f"interval: {one['result']['interval']}")
        for line in (one["cause"], one["apart"], *one["checks"], *one["flags"]):
            if line:
                print(line)
        for verdict in one["verdicts"]:
            print(verdict["sentence"])
    for unfit in answer["unfit"]:
        print(f"not counted: {unfit['reason']}")
