"""What is done on a visit beside its tests, as a device made it: go or no-go, field conditions, the
sample, the end. What was typed stays as it was typed; whoever keeps it reads the fields."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal, cast, get_args

from kessa_core.errors import BadEvent
from kessa_core.runs.made_on_device import (
    MadeOnDevice,
    identifier,
    moment,
    number,
    offset,
    storable,
    whole,
)  # fmt: skip

VisitActName = Literal["safe", "not-sampled", "conditions", "taken", "photo", "ended"]
NAMES: tuple[VisitActName, ...] = get_args(VisitActName)
MOST_FIELDS, MOST_TEXT, MOST_CHOSEN = 60, 600, 40
Fields = Mapping[str, str | tuple[str, ...]]


@dataclass(frozen=True)
class VisitAct(MadeOnDevice):
    """One act on a visit. visit, sample: their numbers; without a sample where all of it is meant.
    fields: what was typed, by the names of the form; of a row of ticks all that were ticked."""

    id: str
    visit: int
    sample: int | None
    act: VisitActName
    fields: Fields
    device: str
    seq: int
    at: str
    mono_ms: float = 0.0
    page: str = ""
    offset_ms: int | None = None
    v: int = field(default=1)

    @property
    def as_plain(self) -> dict[str, Any]:
        """By which device and when by its own clocks."""
        return {
            "v": self.v,
            "device": self.device,
            "seq": self.seq,
            "at": self.at,
            "mono_ms": self.mono_ms,
            "page": self.page,
            "offset_ms": self.offset_ms,
        }


def is_visit_act(raw: object) -> bool:
    """Whether this is meant as one."""
    return isinstance(raw, dict) and "visit" in raw


def read_visit_act(raw: object) -> VisitAct:
    """The act in *raw*, as parsed from JSON.

    Raises BadEvent with the field that is wrong and what it must be.
    """
    if not isinstance(raw, dict):
        raise BadEvent("An act must be an object.")
    version = raw.get("v")
    if isinstance(version, bool) or version != 1:
        raise BadEvent("This version of acts is not known.", field="v", remedy="Use v 1.")
    act = raw.get("act")
    if act not in NAMES:
        raise BadEvent(f"act must be one of: {', '.join(NAMES)}.", field="act")
    sample = raw.get("sample")
    if act != "photo" and (sample is None) != (act == "ended"):
        raise BadEvent("sample is named, but where the visit ends.", field="sample")
    known = raw.get("offset_ms")
    return VisitAct(
        id=identifier(raw, "id"),
        visit=whole(raw.get("visit"), "visit"),
        sample=None if sample is None else whole(sample, "sample"),
        act=cast(VisitActName, act),
        fields=_fields(raw.get("fields", {})),
        device=identifier(raw, "device"),
        seq=whole(raw.get("seq"), "seq"),
        at=moment(raw.get("at")),
        mono_ms=number(raw.get("mono_ms", 0), "mono_ms"),
        page=identifier(raw, "page") if raw.get("page") else "",
        offset_ms=None if known is None else offset(known),
    )


def _fields(given: object) -> Fields:
    if not isinstance(given, dict) or len(given) > MOST_FIELDS:
        raise BadEvent("fields must be a small object.", field="fields")
    found: dict[str, str | tuple[str, ...]] = {}
    for key, value in given.items():
        chosen = value if isinstance(value, list) else [value]
        if len(chosen) > MOST_CHOSEN or not all(_is_short(key, one) for one in chosen):
            raise BadEvent("fields must hold short texts.", field="fields")
        found[str(key)] = tuple(chosen) if isinstance(value, list) else str(value)
    return found


def _is_short(key: object, text: object) -> bool:
    return isinstance(text, str) and len(f"{key}{text}") <= MOST_TEXT and storable(f"{key}{text}")
