"""A simulated session as the events of a run, the same as a person's taps would make them."""

import uuid
from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Any

import numpy as np

from kessa_core.methods import Method
from kessa_core.methods.stage import Stage
from kessa_core.methods.steps import Step
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import ReadingType
from kessa_core.runs.events import Event
from kessa_core.simulation.hands import Session, StageSession

SECONDS = {
    "tick": (14, 40), "answer": (4, 12), "drop": (2, 5), "end": (2, 4), "next": (2, 6),
    "read": (4, 12),
}  # fmt: skip
Act = tuple[str, dict[str, Any]]
TYPED_S = 60
"""What an instrument shows for a wait that is typed."""


def events(
    method: Method, session: Session, start: datetime, rng: np.random.Generator, run: str = ""
) -> list[Event]:
    """The events of *session*, beginning at *start* (with its offset to UTC)."""
    run = run or _identifier(rng)
    device, page = _identifier(rng), _identifier(rng)
    made: list[Event] = []
    now = start
    for act, data in [("begin", {}), *_acts(method, session)]:
        if act == "time":
            now += timedelta(seconds=_wait(method, str(data["step"])))
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
                mono_ms=float(round((now - start).total_seconds() * 1000)),
                page=page,
                offset_ms=0,
            )
        )
        if act != "time":
            now += timedelta(seconds=float(rng.uniform(low, high)))
    return made


def _wait(method: Method, step_id: str) -> float:
    """Long enough for this clock, and not too long."""
    step = method.step(step_id)
    if not step or not step.wait:
        return 0.0
    wait = step.wait
    if wait.rule == "at-most":
        return (wait.seconds or 0) / 3
    if wait.rule == "typed":
        return TYPED_S + 1.0
    longest = max((band.seconds for band in wait.table), default=0)
    return float(wait.seconds or longest or 20) + 1.0


def _acts(method: Method, session: Session) -> Iterator[Act]:
    yield from _steps(list(method.before), None, None)
    at = 0
    while at < len(method.stages):
        if at:
            yield "stage", {}
        flask = method.flask(at) if method.stages[at].repeats.least > 1 else (at,)
        if len(flask) > 1:
            yield from _flask(method, session, flask)
        else:
            yield from _stage(method.stages[at], session.stages[at], _before(method, session, at))
        at = flask[-1] + 1


def _before(method: Method, session: Session, at: int) -> StageSession:
    """What was done in the stage whose flask this one continues in; nothing where it does not."""
    return session.stages[at - 1] if method.stages[at].continues else StageSession()


def _flask(method: Method, session: Session, flask: tuple[int, ...]) -> Iterator[Act]:
    """Several colours, one flask after the other."""
    for n in range(len(session.stages[flask[0]].samples)):
        for at in flask:
            stage, done = method.stages[at], session.stages[at]
            if n == 0:
                yield from _steps(list(stage.prepare), None, None)
            if n >= len(done.samples):
                return
            before = _before(method, session, at).samples
            from_n = int(before[n].n) if before else 0
            yield from _determination(stage, stage.reader(), done.samples[n], "sample", from_n)


def _stage(stage: Stage, done: StageSession, before: StageSession) -> Iterator[Act]:
    reader = stage.reader()
    for failed in done.failed_blanks:
        yield from _determination(stage, reader, failed, "blank")
        yield "again", {}
    for role in ("blank", "standard", "reference"):
        if seen := getattr(done, role):
            yield from _determination(stage, reader, seen, role)
    yield from _steps(list(stage.prepare), None, None)
    for n, seen in enumerate(done.samples):
        from_n = int(before.samples[n].n) if n < len(before.samples) else 0
        yield from _determination(stage, reader, seen, "sample", from_n)
    if done.spike:
        yield from _determination(stage, reader, done.spike, "spike")


def _determination(
    stage: Stage, reader: ReadingType, seen: Reading, role: str, from_n: int = 0
) -> Iterator[Act]:
    """One determination; *from_n*: the count that it goes on from."""
    steps = stage.steps_for(role)
    if not reader.counts:
        yield from _steps(steps, reader, seen)
        return
    yield from _steps([step for step in steps if step.kind != "count"], None, None)
    for _ in range(int(seen.n) - from_n):
        yield "drop", {}
    if seen.kind == "beyond":
        yield "beyond", {}
        return
    yield "end", {}
    if seen.kind == "backed-off":
        yield "back-off", {}
    elif seen.kind == "doubt":
        yield "doubt", {}
    yield "next", {}


def _steps(steps: list[Step], reader: ReadingType | None, seen: Reading | None) -> Iterator[Act]:
    for step in steps:
        if step.kind == "tick":
            yield "tick", {"step": step.id}
        elif step.kind == "wait":
            if step.wait and step.wait.rule == "typed":
                yield "clock", {"step": step.id, "seconds": TYPED_S}
            yield "time", {"step": step.id}
        elif step.kind == "check":
            answer = next(a for a in step.answers if a.then == "next")
            yield "answer", {"step": step.id, "answer": answer.id}
        elif step.kind == "read" and reader and seen and step.slot:
            yield "read", {"step": step.id, "raw": raw_of(reader, seen, step.slot)}
            if seen.kind == "beyond":
                return


def raw_of(reader: ReadingType, seen: Reading, slot: str) -> str:
    """What a person would type or set for this slot."""
    scale = reader.scale(slot)
    main = slot == reader.reading_fields[-1]
    if main and seen.kind == "beyond":
        end = scale.high if scale.over_at is None else scale.over_at
        return ">" if seen.n == end else f">{scale.say(seen.n)}"
    if main and seen.kind == "below":
        return "<"
    n = seen.n if main or slot not in dict(seen.beside) else seen.slot(slot)
    if seen.kind == "beyond" and scale.over:
        return f">{scale.say(seen.n)}"
    if scale.labels:
        return str(n)
    for one in scale.ranges:
        if n <= one.high * 10**one.zeros:
            shown = type(scale)("", 0, 0, one.decimals).say(n // 10**one.zeros)
            return f"{shown}|{one.unit}"
    return scale.say(n)


def _identifier(rng: np.random.Generator) -> str:
    return str(uuid.UUID(bytes=rng.bytes(16), version=4))
