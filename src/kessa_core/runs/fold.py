"""Replay events to get the state. Events that do not apply are stored and reported."""

from collections.abc import Callable, Iterable

from kessa_core.methods import Method
from kessa_core.readings.lots import NO_LOTS, Lots
from kessa_core.runs.act_models import Act
from kessa_core.runs.acts import EventHandlers
from kessa_core.runs.events import Event, with_offsets
from kessa_core.runs.order import ordered, undone
from kessa_core.runs.state import RunState

FREE = ("note", "take-over", "correct", "read-photo", "ask-again", "reader")
"""Acts that need not come from the device that holds the determination."""


def fold(method: Method, events: Iterable[Event], lots: Lots = NO_LOTS) -> RunState:
    """The state of a run of *method* after *events*, in any order of arrival, each counted once.

    lots: what the lots in use say, for readings that are looked up in a table of theirs.
    """
    return replay(method, events, lots).state


def replay(method: Method, events: Iterable[Event], lots: Lots = NO_LOTS) -> EventHandlers:
    """The machine of a run after *events*: its state, and the moments that its clocks go by."""
    in_order = ordered(with_offsets(events))
    gone = undone(in_order)
    machine = EventHandlers(method, lots)
    machine.state.undone = frozenset(gone)
    off = [event.offset_ms or 0 for event in in_order if event.clock_is_off]
    machine.state.clock_off_ms = max(off, key=abs, default=0)
    for event in in_order:
        if event.id not in gone:
            apply(machine, event)
    return machine


def apply(machine: EventHandlers, event: Event) -> None:
    """Move the machine by one event that stands; what has no place is noted as unfit."""
    if event.act in ("undo", "begin"):
        return
    handler: Callable[[Event, Act], str] = getattr(machine, f"do_{event.act.replace('-', '_')}")
    state, current = machine.state, machine.state.current
    if _held_elsewhere(event, current.holder if current else ""):
        state.ignored.append((event.id, "another device is doing this measurement"))
    elif reason := handler(event, event.content):
        state.ignored.append((event.id, reason))
    elif current and not current.holder and event.act not in FREE:
        current.holder = event.device


def _held_elsewhere(event: Event, holder: str) -> bool:
    if event.v < 2 or event.act in FREE:
        return False
    return holder not in ("", event.device)
