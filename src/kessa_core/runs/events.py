"""One act. Every version ever accepted is read for ever.

Version 1: acts of any device count where they fit. Version 2: a determination is held by one
device; acts of another count only after it took over.
"""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from functools import cached_property
from typing import Any

from kessa_core.errors import BadEvent
from kessa_core.runs.act_models import AnyAct, read_act

VERSIONS = (1, 2)
MAX_TEXT = 500
CLOCK_OFF_MS = 60_000
"""From here on a device's times are corrected; below, an offset is as much the network's."""
MOST_OFF_MS = 100 * 366 * 24 * 3600 * 1000
_ID = re.compile(r"^[0-9a-zA-Z][0-9a-zA-Z-]{7,63}$")


@dataclass(frozen=True)
class Event:
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

    @property
    def when(self) -> datetime:
        return datetime.fromisoformat(self.at)

    @property
    def clock_is_off(self) -> bool:
        """Whether the device's clock is known to be a minute or more from the server's."""
        return abs(self.offset_ms or 0) >= CLOCK_OFF_MS

    @property
    def true_at(self) -> str:
        """When it was made, by the server's clock where the device's is known to be off."""
        if not self.clock_is_off:
            return self.at
        corrected = self.when + timedelta(milliseconds=self.offset_ms or 0)
        return corrected.isoformat(timespec="milliseconds")

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
    offset = raw.get("offset_ms")
    shown = raw.get("shown", {})
    _check_flat("shown", shown)
    return Event(
        id=_identifier(raw, "id"),
        run=_identifier(raw, "run"),
        act=act,
        data=data,
        device=_identifier(raw, "device"),
        seq=_whole(raw.get("seq"), "seq"),
        lamport=_whole(raw.get("lamport"), "lamport"),
        at=_moment(raw.get("at")),
        mono_ms=_number(raw.get("mono_ms", 0), "mono_ms"),
        page=_identifier(raw, "page") if raw.get("page") else "",
        offset_ms=None if offset is None else _offset(offset),
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
        if not _storable(f"{key}{value}"):
            raise BadEvent(
                "Text may hold neither the character 0 nor half characters.", field=field_name
            )


def _named(key: object) -> str:
    return ascii(key)[1:-1][:40]


def _storable(text: str) -> bool:
    return "\x00" not in text and not any("\ud800" <= letter <= "\udfff" for letter in text)


def is_identifier(text: str) -> bool:
    """Whether *text* may name an event, a run, a device or a page."""
    return bool(_ID.fullmatch(text))


def _identifier(raw: Mapping[str, Any], name: str) -> str:
    value = raw.get(name)
    if not isinstance(value, str) or not is_identifier(value):
        raise BadEvent(f"{name} must be 8 to 64 letters, digits or hyphens.", field=name)
    return value


def _whole(value: object, name: str) -> int:
    if isinstance(value, bool) or not isinstance(value, int) or not 0 <= value < 2**53:
        raise BadEvent(f"{name} must be a whole number, not negative.", field=name)
    return value


def _number(value: object, name: str) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not abs(value) < 1e15:
        raise BadEvent(f"{name} must be a number.", field=name)
    return float(value)


def _offset(value: object) -> int:
    """Server minus device, in ms; a century at most, so that a corrected time is still a time."""
    offset = int(_number(value, "offset_ms"))
    if abs(offset) > MOST_OFF_MS:
        raise BadEvent("offset_ms lies further off than any clock.", field="offset_ms")
    return offset


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
    return [filled.get(event.id, event) for event in known]


def _moment(value: object) -> str:
    remedy = "Use ISO 8601, such as 2026-11-24T10:16:02.500+00:00."
    try:
        moment = datetime.fromisoformat(str(value)[:40])
    except ValueError:
        raise BadEvent("at is not a date and time.", field="at", remedy=remedy) from None
    if not 2000 <= moment.year <= 2199:
        raise BadEvent("at lies outside the years 2000 to 2199.", field="at", remedy=remedy)
    if moment.tzinfo is None:
        raise BadEvent("at has no offset to UTC.", field="at", remedy=remedy)
    return str(value)[:40]
