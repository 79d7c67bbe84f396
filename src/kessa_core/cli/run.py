"""./kessa run METHOD EVENTS [--json]: fold a file of events with a method document."""

import json
import sys
from pathlib import Path
from typing import Any

from kessa_core.cli.documents import find_method
from kessa_core.errors import BadEvent, CoreError
from kessa_core.judging.limits import Limit
from kessa_core.judging.verdict import judge
from kessa_core.methods import Method
from kessa_core.runs import Outcome, RunState, conclude, fold
from kessa_core.runs.export import read


def main(arguments: list[str]) -> int:
    """Print state, determinations, result, interval and flags of each run in the file."""
    plain = [argument for argument in arguments if argument != "--json"]
    if len(plain) != 2:
        raise CoreError("Give a method (id or file) and a file of events, or - for standard input.")
    method = find_method(plain[0])
    text = sys.stdin.read() if plain[1] == "-" else Path(plain[1]).read_text("utf-8")
    runs = read(text)
    if not runs:
        raise BadEvent("There is no event in this file.")
    for context, events in runs:
        state = fold(method, events)
        answer = report(method, state, conclude(method, state), context)
        if "--json" in arguments:
            print(json.dumps(answer, ensure_ascii=False))
        else:
            _print(answer)
    return 0


def report(
    method: Method, state: RunState, outcome: Outcome, context: dict[str, Any]
) -> dict[str, Any]:
    """Everything that follows from the events, as plain data."""
    known = context.get("method", {}).get("hash", method.hash)
    return {
        "method": {"id": method.id, "version": method.version, "hash": method.hash},
        "method_matches": known == method.hash,
        "place": {"spot": state.place.spot, "step": state.place.step},
        "finish": state.finish,
        "determinations": [
            {
                "id": d.id,
                "role": d.role,
                "drops": d.count,
                "kind": d.kind,
                "reported_drops": d.reading.reported if d.reading else None,
                "check_drops": d.check_drops,
                "rejected": d.rejected,
                "was": [{"drops": c.was, "why": c.why, "at": c.at} for c in d.corrections],
                "used": d.id in outcome.used,
                "drop_times": d.drop_times,
            }
            for d in state.determinations
        ],
        "decision": outcome.decision,
        "result": _result(outcome),
        "verdicts": _verdicts(outcome, context),
        "cause": outcome.cause,
        "apart": outcome.apart,
        "flags": list(outcome.flags),
        "unfit": [{"event": event, "reason": reason} for event, reason in state.unfit],
        "undone": sorted(state.undone),
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
        "text": value.text,
        "low": value.interval.low,
        "high": value.interval.high,
        "interval": value.range_text,
        "working": outcome.working,
    }


def _verdicts(outcome: Outcome, context: dict[str, Any]) -> list[dict[str, str]]:
    if outcome.value is None:
        return []
    judged = [judge(outcome.value, Limit.model_validate(raw)) for raw in context.get("limits", [])]
    return [
        {
            "limit": verdict.limit.id if verdict.limit else "",
            "interval": verdict.interval_sign,
            "reported": verdict.reported_sign,
            "sentence": verdict.sentence,
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
        print(f"{d['id']}: {d['drops']} drops, {d['kind']}{note}")
    if answer["result"]:
        print(answer["result"]["working"])
        print(f"interval: {answer['result']['interval']}")
    for line in (answer["cause"], answer["apart"], *answer["flags"]):
        if line:
            print(line)
    for verdict in answer["verdicts"]:
        print(verdict["sentence"])
