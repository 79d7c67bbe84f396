"""Events of a run, as a person's taps would make them."""

import uuid
from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from typing import Any

from kessa_core.methods import Method, shipped
from kessa_core.methods.steps import Step
from kessa_core.readings.lots import NO_LOTS, Lots
from kessa_core.runs import Event, Outcome, RunState, conclude, fold

START = datetime(2026, 3, 2, 9, 52, tzinfo=UTC)
RUN = "11111111-1111-4111-8111-111111111111"


def big() -> Method:
    """Chloride, 15 mL."""
    return shipped("chloride-drops-15ml")


def small() -> Method:
    """Chloride, 5 mL."""
    return shipped("chloride-drops-5ml")


def reader(method: Method | None = None) -> Any:
    """The principle of a method's first stage."""
    return (method or big()).stages[0].reader()


def outcome_of(method: Method, state: RunState, lots: Lots = NO_LOTS) -> Outcome:
    """The outcome of a method's first stage."""
    return conclude(method, state, lots)[0]


class Taps:
    """Acts one after the other; every method hands back the taps, so that they chain."""

    def __init__(
        self, method: Method | None = None, run: str = RUN, device: str = "device-1", v: int = 2
    ) -> None:
        self.method = method or big()
        self.stage = self.method.stages[0]
        self.extra = 0.0
        self.run, self.device, self.v = run, device, v
        self.events: list[Event] = []

    def act(self, act: str, **data: Any) -> "Taps":
        number = len(self.events) + 1
        self.events.append(
            Event(
                id=str(uuid.uuid5(uuid.NAMESPACE_OID, f"{self.run}{self.device}{number}")),
                run=self.run,
                act=act,
                data=data,
                device=self.device,
                seq=number,
                lamport=number,
                at=(START + timedelta(seconds=3 * number + self.extra)).isoformat(),
                v=self.v,
            )
        )
        return self

    def before(self, answer: str = "") -> "Taps":
        """Every step before the first determination; checks pass, or get this answer."""
        for step in self.method.before:
            if step.kind == "check":
                passing = next(a.id for a in step.answers if a.then == "next")
                self.act("answer", step=step.id, answer=answer or passing)
            elif step.kind == "wait":
                self.wait(step.id)
            else:
                self.act("tick", step=step.id)
        return self

    def steps(self, who: str, diluted: bool = False) -> "Taps":
        """Every step of a determination up to the count."""
        for step in self.stage.steps_for(who, diluted):
            if step.kind == "tick":
                self.act("tick", step=step.id)
            elif step.kind == "wait":
                self.wait(step.id)
            elif step.kind == "check":
                self.act("answer", step=step.id, answer=step.answers[0].id)
        return self

    def later(self, seconds: float) -> "Taps":
        """The next act comes so much later."""
        self.extra += seconds
        return self

    def wait(self, step_id: str, seconds: float | None = None) -> "Taps":
        """A clock that runs its time (or *seconds*) and is ended."""
        step = self.method.step(step_id)
        longest = max((band.seconds for band in step.wait.table), default=0)
        due = step.wait.seconds or longest
        return self.later(due if seconds is None else seconds).act("time", step=step_id)

    def read(self, *raws: str, who: str = "sample", diluted: bool = False) -> "Taps":
        """A whole determination that reads these, slot by slot; an outside one ends it."""
        waiting = list(raws)
        for step in self.stage.steps_for(who, diluted):
            if step.kind != "read":
                self.past(step)
            elif waiting:
                self.act("read", step=step.id, raw=waiting.pop(0))
        return self

    def photograph(self, *photos: str, who: str = "sample", twice: bool = False) -> "Taps":
        """A whole determination whose readings are photographed, slot by slot, to be read later."""
        waiting = list(photos)
        for step in self.stage.steps_for(who, False):
            if step.kind == "read":
                more = {"twice": 1} if twice else {}
                self.act("photo", step=step.id, photo=waiting.pop(0), later=1, **more)
            else:
                self.past(step)
        return self

    def past(self, step: Step) -> "Taps":
        """Past a step that is no reading."""
        if step.kind == "tick":
            return self.act("tick", step=step.id)
        if step.kind == "wait":
            return self.wait(step.id)
        answer = next(a for a in step.answers if a.then == "next")
        return self.act("answer", step=step.id, answer=answer.id)

    def on_to(self, stage: int) -> "Taps":
        """The next stage."""
        self.stage = self.method.stages[stage]
        return self.act("stage")

    def drops(self, count: int) -> "Taps":
        for _ in range(count):
            self.act("drop")
        return self

    def count(self, drops: int, who: str = "sample", how: str = "") -> "Taps":
        """A whole determination: steps, drops, end, and how sure the last drop was."""
        self.steps(who).drops(drops).act("end")
        if how:
            self.act(how)
        return self.act("next")

    def beyond(self) -> "Taps":
        return self.steps("sample").drops(self.stage.most).act("beyond")

    def on(self, device: str) -> "Taps":
        """The next acts come from another device."""
        self.device = device
        return self

    def correct(self, which: str, drops: int, kind: str = "plain", why: str = "misread") -> "Taps":
        return self.act("correct", determination=which, drops=drops, kind=kind, why=why)

    def take_back(self) -> "Taps":
        """Undo the last act."""
        return self.act("undo", event=self.events[-1].id)


def walk(samples: Iterable[int], blank: int = 2, method: Method | None = None) -> Taps:
    """pH inside, one blank, then these sample counts."""
    taps = Taps(method).before().count(blank, "blank")
    for drops in samples:
        taps.count(drops)
    return taps


def begun(method: Method | str) -> Taps:
    """A run up to its first determination."""
    return Taps(shipped(method) if isinstance(method, str) else method).before()


def outcomes(taps: Taps, lots: Lots | None = None) -> tuple[Outcome, ...]:
    held = lots or Lots()
    return conclude(taps.method, fold(taps.method, taps.events, held), held)
