"""Events of a run, as a person's taps would make them."""

import uuid
from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from typing import Any

from kessa_core.methods import Method, shipped
from kessa_core.runs import Event

START = datetime(2026, 3, 2, 9, 52, tzinfo=UTC)
RUN = "11111111-1111-4111-8111-111111111111"


def big() -> Method:
    """Chloride, 15 mL."""
    return shipped("chloride-drops-15ml")


def small() -> Method:
    """Chloride, 5 mL."""
    return shipped("chloride-drops-5ml")


class Taps:
    """Acts one after the other; every method hands back the taps, so that they chain."""

    def __init__(
        self, method: Method | None = None, run: str = RUN, device: str = "device-1", v: int = 2
    ) -> None:
        self.method = method or big()
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
                at=(START + timedelta(seconds=3 * number)).isoformat(),
                v=self.v,
            )
        )
        return self

    def before(self, answer: str = "inside") -> "Taps":
        return self.act("answer", step="ph-window", answer=answer)

    def steps(self, who: str) -> "Taps":
        """Every step of a determination up to the count."""
        for step in self.method.steps.each:
            if step.kind == "tick" and step.only in (None, who):
                self.act("tick", step=step.id)
            elif step.kind == "check":
                self.act("answer", step=step.id, answer=step.answers[0].id)
        return self

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
        return self.steps("sample").drops(self.method.titration.max_drops).act("beyond")

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
