"""Fold order and undo: which events count, in which order."""

from collections.abc import Iterable

from kessa_core.runs.events import Event


def ordered(events: Iterable[Event]) -> list[Event]:
    """Each event once (by id), in fold order: Lamport counter, device, sequence."""
    once = {event.id: event for event in events}
    return sorted(once.values(), key=lambda event: (*event.order, event.id))


def undone(events: list[Event]) -> set[str]:
    """The ids of events that a later undo takes back; an undo can itself be undone."""
    gone: set[str] = set()
    seen_later: set[str] = set()
    for event in reversed(events):
        if event.act == "undo" and event.id not in gone:
            target = str(event.data["event"])
            if target not in seen_later and target != event.id:
                gone.add(target)
        seen_later.add(event.id)
    return gone
