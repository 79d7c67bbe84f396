"""One act. Every version ever accepted is read for ever.

Version 1: acts of any device count where they fit. Version 2: a determination is held by one
device; acts of another count only after it took over.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import pairwise, takewhile
from typing import Any

from kessa_core.errors import BadEvent
from kessa_core.runs.act_models import AnyAct, read_act
from kessa_core.runs.made_on_device import (
    MadeOnDevice,
    identifier,
    moment,
    number,
    offset,
    storable,
    whole,
)  # fmt: skip

VERSIONS = (1, 2)
MAX_TEXT = 500


@dataclass(frozen=True)
class Event(MadeOnDevice):
    """One act: who made it when on which device, and what it was.

    at: the device's wall time with its offset (ISO 8601). mono_ms: the device's monotonic clock.
    offset_ms: server minus device, when it was known. shown: what the page showed then.
    """

    id: str
    run: str
    act: str
    data: Mapping[str, Any]
    device: str
    seq: int
    lamport: int
    at: str
    mono_ms: float = 0.0
    page: str = ""
    offset_ms: int | None = None
    shown: Mapping[str, Any] = field(default_factory=dict)
    v: int = 2

    @cached_property
    def content(self) -> AnyAct:
        """What the act carries, typed."""
        return read_act(self.act, self.data)

    @property
    def order(self) -> tuple[int, str, int]:
        """Fold order: Lamport counter, device, sequence."""
        return (self.lamport, self.device, self.seq)

    def as_json(self) -> dict[str, Any]:
        """The event as it stands in a file and on the wire."""
        return {
            "v": self.v,
            "id": self.id,
            "run": self.run,
            "act": self.act,
            "data": dict(self.data),
            "device": self.device,
            "seq": self.seq,
            "lamport": self.lamport,
            "at": self.at,
            "mono_ms": self.mono_ms,
            "page": self.page,
            "offset_ms": self.offset_ms,
            "shown": dict(self.shown),
        }


def read_event(raw: object) -> Event:
    """The event in *raw*, as parsed from JSON.

    Raises BadEvent with the field that is wrong and what it must be.
    """
    if not isinstance(raw, dict):
        raise BadEvent("An event must be an object.")
    version = raw.get("v")
    if isinstance(version, bool) or version not in VERSIONS:
        raise BadEvent("This version of events is not known.", field="v", remedy="Use v 2.")
    act, data = str(raw.get("act")), raw.get("data", {})
    _check_flat("data", data)
    read_act(act, data)
    known = raw.get("offset_ms")
    shown = raw.get("shown", {})
    _check_flat("shown", shown)
    return Event(
        id=identifier(raw, "id"),
        run=identifier(raw, "run"),
        act=act,
        data=data,
        device=identifier(raw, "device"),
        seq=whole(raw.get("seq"), "seq"),
        lamport=whole(raw.get("lamport"), "lamport"),
        at=moment(raw.get("at")),
        mono_ms=number(raw.get("mono_ms", 0), "mono_ms"),
        page=identifier(raw, "page") if raw.get("page") else "",
        offset_ms=None if known is None else offset(known),
        shown=shown,
        v=version,
    )


def _check_flat(field_name: str, data: object) -> None:
    """A small object of short texts and whole numbers that every store can hold."""
    if not isinstance(data, dict) or len(data) > 8:
        raise BadEvent(f"{field_name} must be a small object.", field=field_name)
    for key, value in data.items():
        if isinstance(value, int) and abs(value) < 2**53:
            value = str(value)
        if not isinstance(value, str | None) or len(f"{key}{value}") > MAX_TEXT:
            what = f"{field_name}.{_named(key)} must be a short text or a whole number."
            raise BadEvent(what, field=field_name)
        if not storable(f"{key}{value}"):
            raise BadEvent(
                "Text may hold neither the character 0 nor half characters.", field=field_name
            )


def _named(key: object) -> str:
    return ascii(key)[1:-1][:40]


def with_offsets(events: Iterable[Event]) -> list[Event]:
    """The same events, in the same order; one that was made before its device had heard from the
    server takes the offset that the device learnt next, else the one it knew last."""
    known = list(events)
    found: dict[str, int] = {}
    for event in sorted(known, key=lambda one: one.order):
        if event.offset_ms is not None:
            found[event.device] = event.offset_ms
    filled = {}
    for event in sorted(known, key=lambda one: one.order, reverse=True):
        if event.offset_ms is not None:
            found[event.device] = event.offset_ms
        elif event.device in found:
            filled[event.id] = replace(event, offset_ms=found[event.device])
    filled |= _after_a_jump([filled.get(event.id, event) for event in known])
    return [filled.get(event.id, event) for event in known]


JUMP_S = 60.0
"""Seconds from which a device's wall clock has jumped against its page's own."""
SAME_JUMP_S = 15.0
"""Seconds within which a jump and the offset learnt afterwards are the same."""


def _after_a_jump(events: Iterable[Event]) -> dict[str, Event]:
    """The events made between a jump of their device's wall clock and its next word from the
    server, by id, each with the offset that it learnt then.

    Between two acts of one page the wall clock went on otherwise than the page's own, and what the
    device learnt next explains just that. Where nothing was learnt, the device may have slept.
    """
    of_page: dict[tuple[str, str], list[Event]] = {}
    for event in sorted(events, key=lambda one: one.seq):
        if event.page and event.offset_ms is not None:
            of_page.setdefault((event.device, event.page), []).append(event)
    mended: dict[str, Event] = {}
    for made in of_page.values():
        for at, (before, event) in enumerate(pairwise(made), 1):
            by_wall = (event.when - before.when).total_seconds()
            jump = by_wall - (event.mono_ms - before.mono_ms) / 1000
            if abs(jump) < JUMP_S or event.offset_ms != before.offset_ms:
                continue
            stale = _of_one_offset(made[at:])
            learnt = made[at + len(stale)].offset_ms if at + len(stale) < len(made) else None
            if learnt is None or event.offset_ms is None:
                continue
            if abs((learnt - event.offset_ms) / 1000 + jump) <= SAME_JUMP_S:
                mended |= {one.id: replace(one, offset_ms=learnt) for one in stale}
    return mended


def _of_one_offset(events: Sequence[Event]) -> list[Event]:
    """The first of these, and those that follow it without another word from the server."""
    first = events[0].offset_ms
    return list(takewhile(lambda one: one.offset_ms == first, events))
