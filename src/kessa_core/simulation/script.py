"""A simulated session as the events of a run, the same as a person's taps would make them."""

import uuid
from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Any

import numpy as np

from kessa_core.methods import Method
from kessa_core.methods.parts import Step
from kessa_core.readings.dropcount import DropReading
from kessa_core.runs.events import Event
from kessa_core.simulation.hands import Session

SECONDS = {"tick": (14, 40), "answer": (4, 12), "drop": (2, 5), "end": (2, 4), "next": (2, 6)}


def events(
    method: Method, session: Session, start: datetime, rng: np.random.Generator, run: str = ""
) -> list[Event]:
    """The events of *session*, beginning at *start* (with its offset to UTC)."""
    run = run or _identifier(rng)
    device, page = _identifier(rng), _identifier(rng)
    made: list[Event] = []
    now = start
    for act, data in [("begin", {}), *_acts(method, session)]:
        low, high = SECONDS.get(act, (3, 8))
        made.append(
            Event(
                id=_identifier(rng),
                run=run,
                act=act,
                data=data,
                device=device,
                seq=len(made) + 1,
                lamport=len(made) + 1,
                at=now.isoformat(timespec="milliseconds"),
                mono_ms=round((now - start).total_seconds() * 1000),
                page=page,
                offset_ms=0,
            )
        )
        now += timedelta(seconds=float(rng.uniform(low, high)))
    return made


def _acts(method: Method, session: Session) -> Iterator[tuple[str, dict[str, Any]]]:
    yield from _steps(list(method.steps.before))
    for failed in session.failed_blanks:
        yield from _determination(method, failed, "sample")
        yield "again", {}
    if session.blank:
        yield from _determination(method, session.blank, "sample")
    for reading in session.samples:
        yield from _determination(method, reading, "blank")


def _determination(
    method: Method, reading: DropReading, leave_out: str
) -> Iterator[tuple[str, dict[str, Any]]]:
    yield from _steps([s for s in method.steps.each if s.only != leave_out and s.kind != "count"])
    for _ in range(reading.drops):
        yield "drop", {}
    if reading.kind == "beyond":
        yield "beyond", {}
        return
    yield "end", {}
    if reading.kind == "backed-off":
        yield "back-off", {}
    elif reading.kind == "doubt":
        yield "doubt", {}
    yield "next", {}


def _steps(steps: list[Step]) -> Iterator[tuple[str, dict[str, Any]]]:
    for step in steps:
        if step.kind == "tick":
            yield "tick", {"step": step.id}
        else:
            answer = next(a for a in step.answers if a.then == "next")
            yield "answer", {"step": step.id, "answer": answer.id}


def _identifier(rng: np.random.Generator) -> str:
    return str(uuid.UUID(bytes=rng.bytes(16), version=4))
