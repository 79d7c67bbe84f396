"""Fold order and undo: which events count, in which order."""

from collections.abc import Iterable

from kessa_core.runs.act_models import Undo
from kessa_core.runs.events import Event


def ordered(events: Iterable[Event]) -> list[Event]:
    """Each event once (by id), in fold order: Lamport counter, device, sequence."""
    once = {event.id: event for event in events}
    return sorted(once.values(), key=lambda event: (*event.order, event.id))


FIRM = ("correct", "take-over", "read-photo")
"""Acts that no undo undoes: a correction is corrected again, a hand-over handed over again, what
was read from a photograph is corrected."""


def undone(events: list[Event]) -> set[str]:
    """The ids of *events* (in fold order) that a later undo undoes.

    An undo can itself be undone. From version 2 on, a device undoes its own acts, and those of
    others that came before it took over.
    """
    place = {event.id: position for position, event in enumerate(events)}
    gone: set[str] = set()
    for position, event in reversed(list(enumerate(events))):
        if not isinstance(event.content, Undo) or event.id in gone:
            continue
        target = place.get(event.content.event, position)
        if target < position and _may_take_back(events, target, position):
            gone.add(events[target].id)
    return gone


def _may_take_back(events: list[Event], target: int, position: int) -> bool:
    undo, taken = events[position], events[target]
    if taken.act in FIRM:
        return False
    if undo.v < 2 or taken.device == undo.device:
        return True
    between = events[target + 1 : position]
    return any(event.act == "take-over" and event.device == undo.device for event in between)
