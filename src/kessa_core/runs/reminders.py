"""When a test that waits for hours or days is to be read."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Literal

from kessa_core.methods import Method
from kessa_core.readings.lots import NO_LOTS, Lots
from kessa_core.runs.clocks import due
from kessa_core.runs.events import Event
from kessa_core.runs.fold import replay

When = Literal["waiting", "due", "late"]


@dataclass(frozen=True)
class Reminder:
    """What a long wait of a run ends with. step: its title; ready: when it may be read; until: the
    last moment that counts, None where there is none."""

    step: str
    ready: datetime
    until: datetime | None

    def when(self, now: datetime) -> When:
        """Whether it still waits at *now*, is due, or too late."""
        if now < self.ready:
            return "waiting"
        return "late" if self.until is not None and now > self.until else "due"


def has_long_wait(method: Method) -> bool:
    """Whether any of its waits lasts so long that people go away."""
    return any(
        step.wait and step.wait.is_long
        for stage in method.stages
        for step in (*stage.prepare, *stage.steps)
    )


def reminder_of(method: Method, events: Iterable[Event], lots: Lots = NO_LOTS) -> Reminder | None:
    """The reminder of a run that stands at a long wait, by its device's clock; else None."""
    machine = replay(method, events, lots)
    step = machine.step_here("wait")
    if not step or not step.wait or not step.wait.is_long:
        return None
    began = machine.moments.get(step.wait.starts or "") or machine.last
    if began is None:
        return None
    least, most = due(step, machine.state, machine.readers)
    start = datetime.fromtimestamp(began.at, UTC)
    until = start + timedelta(seconds=most) if most and most > least else None
    return Reminder(step.title, start + timedelta(seconds=least), until)
