"""Clocks of a run: when a wait began, how long it ran, what being early or late means."""

from dataclasses import dataclass

from kessa_core.methods import Method
from kessa_core.methods.steps import LONG_WAIT_S, Step, Wait, duration_words
from kessa_core.readings.reading_type import ReadingType
from kessa_core.runs.events import Event
from kessa_core.runs.state import RunState, StageState, Waited

EARLY_S = 1.0
"""Seconds before its time at which a wait still counts as ended."""
SLEPT_S = 10.0
"""Seconds by which the wall clock runs ahead of a page's own from where the device has slept."""
LATE_S = 10.0
"""Seconds after an exact time within which a reading still counts as in time."""


@dataclass(frozen=True)
class Moment:
    """When an act was made, by the wall clock (the server's, where the device's is off) and by the
    page's own."""

    at: float
    page: str
    mono_ms: float

    @classmethod
    def of(cls, event: Event) -> "Moment":
        """The moment of an event."""
        return cls(event.true_when.timestamp(), event.page, event.mono_ms)

    def since(self, earlier: "Moment") -> float:
        """Seconds from *earlier*; by the page's own clock where both were made on one page.

        That clock never jumps, and stands still while a device sleeps: where clearly more time has
        passed by the wall, the device has slept.
        """
        by_wall = self.at - earlier.at
        if not self.page or self.page != earlier.page:
            return by_wall
        by_page = (self.mono_ms - earlier.mono_ms) / 1000
        return by_wall if by_wall > by_page + SLEPT_S else by_page


def due(step: Step, state: RunState, readers: dict[str, ReadingType]) -> tuple[int, int | None]:
    """Seconds the wait of *step* has to last at least, and at most (None: for ever).

    A typed wait lasts as long as the instrument showed, and so does a computed one for which that
    was typed. Else a computed wait looks its time up by the highest reading of its stage; without
    one, or where the sample had to be diluted further, it lasts the longest time of its table.
    """
    wait = step.wait
    if wait is None:
        return 0, None
    seconds = wait.seconds or 0
    if wait.rule in ("computed", "typed") and step.id in state.typed:
        return state.typed[step.id], None
    if wait.rule == "computed":
        return _computed(wait, state.stages, readers), None
    if wait.rule == "typed":
        return 0, None
    if wait.rule == "at-most":
        return 0, seconds
    if wait.rule == "until":
        return 0, None
    if wait.rule == "between":
        return seconds, wait.to_seconds
    return seconds, seconds if wait.rule == "exactly" else None


def _computed(wait: Wait, stages: list[StageState], readers: dict[str, ReadingType]) -> int:
    longest = max(band.seconds for band in wait.table)
    stage = next((one for one in stages if one.id == wait.of_stage), None)
    found = [d.seen for d in stage.samples if d.seen] if stage else []
    if not found:
        return longest
    if not stage or stage.extra or any(seen.kind == "beyond" for seen in found):
        return longest
    reader = readers[stage.id]
    highest = stage.base * reader.correction * max(float(reader.number(seen)) for seen in found)
    fitting = [band.seconds for band in wait.table if highest <= float(band.up_to)]
    return fitting[0] if fitting else longest


def early(step: Step, waited: Waited) -> str:
    """The flag of a wait that was cut short; else nothing."""
    if waited.seconds >= waited.least - EARLY_S:
        return ""
    ran, least = _long(waited.seconds, waited.least), _long(waited.least, waited.least)
    return f"{step.title}: waited {ran} of {least}"


def late(method: Method, waited: Waited, seconds: float, done: str) -> str:
    """The flag of what was *done* ("ended", "read") too long after a wait began, where late
    matters; else nothing."""
    step = method.step(waited.step)
    if not step or not step.wait or not step.wait.late_matters or waited.most is None:
        return ""
    grace = LATE_S if step.wait.rule == "exactly" else EARLY_S
    if seconds <= waited.most + grace:
        return ""
    ran, most = _long(seconds, waited.most), _long(waited.most, waited.most)
    return f"{step.title}: {done} after {ran}, due by {most}"


def _long(seconds: float, due_s: int) -> str:
    """Seconds; of a wait of hours or days in its own unit."""
    return f"{seconds:.0f} s" if due_s < LONG_WAIT_S else duration_words(seconds)
