"""Everything that a run's machine holds, as plain data: what tests/browser/machine_state.js makes
of the page's machine."""

import hashlib
import json
from collections.abc import Iterable, Iterator, Sequence
from datetime import datetime
from math import floor
from random import Random
from typing import Any

from kessa.pages.bench.digest import digest
from kessa_core.methods import Method
from kessa_core.methods.suitability import suitability_warnings
from kessa_core.readings.scale import InvalidReading, Range, Scale
from kessa_core.runs import Determination, Event
from kessa_core.runs.clocks import due
from kessa_core.runs.fold import FREE, replay
from kessa_core.runs.machine import RunStateMachine
from kessa_core.runs.order import ordered, undone
from kessa_core.sheets.compile import as_sheet_scale
from tests.builders.histories import KNOWN, History, mistyped


def state_of_history(history: History) -> dict[str, Any]:
    """The whole state after a history."""
    machine = replay(history.method, history.events, history.lots)
    state, standing = machine.state, _last_standing(history.events)
    return {
        "digest": digest(state),
        "place": [state.place.spot, state.place.step],
        "at": state.at,
        "finish": [state.finish, state.cause, state.untested],
        "accepted": list(state.accepted),
        "reader": state.reader,
        "unfit": [key for key, _ in state.ignored],
        "moments": {step: _ms(moment.at) for step, moment in sorted(machine.moments.items())},
        "last": _ms(machine.last.at) if machine.last else None,
        "begun": machine.last is not None or any(d.count for d in state.determinations),
        "current": state.current.id if state.current else "",
        "steps": [step.id for step in machine.steps()],
        "stages": [
            [held.id, held.finish, held.cause, held.dilution, held.base] for held in state.stages
        ],
        "determinations": [_determination(machine, d) for d in state.determinations],
        "waits": {
            step.id: due(step, state, machine.readers)[0]
            for step in history.method.every_step
            if step.wait and step.wait.rule in ("computed", "typed")
        },
        "preparing": [state.preparing, [held.prepared for held in state.stages]],
        "asks": _asks(history.method, machine),
        "takes back": standing.id if standing else "",
    }


def digest_of(state: dict[str, Any]) -> str:
    """One short line for a state."""
    text = json.dumps(state, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()[:16]


def _asks(method: Method, machine: RunStateMachine) -> list[str]:
    """What speaks against the sample and was not answered, until the test has begun."""
    state = machine.state
    if state.place.spot != "step" or machine.last or any(d.count for d in state.determinations):
        return []
    asked = [one.id for one in suitability_warnings(method.sample, KNOWN)]
    return [one for one in asked if one not in state.accepted]


def _determination(machine: RunStateMachine, d: Determination) -> dict[str, Any]:
    at = next(i for i, held in enumerate(machine.state.stages) if d in held.determinations)
    stage = machine.method.stages[at]
    reader = machine.readers[stage.id]
    whole = d.kept and d.seen and d.kind != "absent" and (reader.counts or reader.weights())
    return {
        "id": d.id,
        "stage": at,
        "role": [d.role, d.attempt],
        "diluted": d.diluted,
        "count": [d.count, d.kind, d.check_drops],
        "is": [d.ended, d.closed],
        "rejected": d.rejected,
        "holder": d.holder,
        "drops": [_ms_of(text) for text in d.drop_times],
        "read": [[slot, n, d.raw[slot]] for slot, n in d.places.items() if slot in d.raw],
        "over": [[slot, n] for slot, n in d.places.items() if slot not in d.raw],
        "corrections": [one.why for one in d.corrections],
        "photos": [d.photos, {slot: one.n for slot, one in d.again.items()}],
        "half steps": reader.half_steps(d.seen) if whole and d.seen else None,
    }


def _ms(seconds: float) -> int:
    return round(seconds * 1000)


def _ms_of(text: str) -> int:
    return _ms(datetime.fromisoformat(text).timestamp())


def _last_standing(events: Sequence[Event]) -> Event | None:
    """What "take back" takes back: the last act that stands and may be undone."""
    in_order = ordered(events)
    gone = undone(in_order)
    firm = (*FREE, "undo", "begin")
    standing = [event for event in in_order if event.id not in gone and event.act not in firm]
    return standing[-1] if standing else None


MADE_UP = (
    Scale("", 1, 4, labels=("none", "few", "some", "many")),
    Scale("", -40, 120, 1, "°C"),
    Scale("", 5, 90, 0, "% T", over=True, over_at=5),
    Scale("", 0, 300, 2, "mg/L", every=5, over=True, over_asks=True, under=True),
    Scale(
        "", 0, 199900, 1, "µS/cm", over=True,
        ranges=(Range("µS/cm", 1, 0, 19990), Range("mS/cm", 2, 100, 1999, 2)),
    ),
)  # fmt: skip
"""Scales that no shipped method has."""


def scales_of(histories: Iterable[History]) -> tuple[list[dict[str, Any]], list[list[str]]]:
    """Every scale of their methods, and some more, as a sheet has it; and what is typed on each."""
    scales = list(_scales(histories))
    draw = Random(1)
    typed = [
        [*(f"{n}" for n in (scale.low, scale.high)), *(mistyped(scale, draw) for _ in range(80))]
        for scale in scales
    ]
    return [as_sheet_scale(scale) for scale in scales], typed


def said_by_the_core(histories: Iterable[History], typed: Sequence[Sequence[str]]) -> list[Any]:
    """For each scale and 43 places along it, one beyond each end: the place, how it is said, what
    a display shows there, and where what is written for it is read; and what each text comes to."""
    told = []
    for scale, texts in zip(_scales(histories), typed, strict=True):
        places = [scale.low - 1, *(_nearest(scale, part) for part in range(41)), scale.high + 1]
        told.append(
            [
                [[n, *_told(scale, n)] for n in places],
                [_parsed(scale, text, sure) for text in texts for sure in (False, True)],
            ]
        )
    return told


def _scales(histories: Iterable[History]) -> Iterator[Scale]:
    for method in {history.method.id: history.method for history in histories}.values():
        for stage in method.stages:
            reader = stage.reader()
            yield from map(reader.scale, reader.reading_fields)
    yield from MADE_UP


def _told(scale: Scale, n: int) -> list[Any]:
    falls = scale.over_at == scale.low
    if n > scale.high:
        return ["", "", "<" if falls and scale.under else ">"]
    if n < scale.low:
        return ["", "", ">" if falls else "<"]
    return [scale.say(n), _shown(scale, n), _read(scale, n)]


def _parsed(scale: Scale, text: str, sure: bool) -> list[Any]:
    """Place and kind; else that it was refused, whether it may be kept, and what is suspected."""
    try:
        return list(scale.parse(text, sure))
    except InvalidReading as refused:
        return ["refused", refused.doubtful, refused.suspected]


def _nearest(scale: Scale, part: int) -> int:
    """The place so many fortieths along the scale; halves upwards, as the page rounds."""
    return floor(scale.low + (scale.high - scale.low) * part / 40 + 0.5)


def _shown(scale: Scale, n: int) -> str:
    """Figure and unit as the finest range that reaches this far shows them."""
    if scale.labels:
        return ""
    for one in scale.ranges:
        digits = n / 10**one.zeros
        if one.low <= digits <= one.high:
            return f"{Scale('', 0, 0, one.decimals).say(int(digits))} {one.unit}"
    return f"{scale.say(n)} {scale.unit}"


def _read(scale: Scale, n: int) -> int:
    """Where the display's figure is read again: its last digit may stand for more than one step."""
    one = next((r for r in scale.ranges if r.low <= n / 10**r.zeros <= r.high), None)
    return n // 10**one.zeros * 10**one.zeros if one else n
