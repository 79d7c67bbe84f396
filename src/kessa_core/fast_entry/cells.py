"""What a cell of a sheet says: counts, shades, displays, "<", ">", brackets, "not tested, why".

7; 8            two measurements (of counts a space between them will do)
b1; 7; 8        a blank of one drop before them; s: a standard, r: a reference, k: a spike
7-              the last drop was too much; 7?: in doubt between 6 and 7
0.00/12.12      two readings of one measurement: start / end
< or >          below or above the scale; >40 above a figure
2-3             between two shades
x why           not tested, and why; n/a: not applicable
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from kessa_core.methods import Method
from kessa_core.methods.stage import Stage
from kessa_core.readings.lots import NO_LOTS, Lots
from kessa_core.readings.reading_type import ReadingType
from kessa_core.readings.scale import InvalidReading, Scale

Act = tuple[str, dict[str, Any]]
ROLES = {"b": "blank", "s": "standard", "r": "reference", "k": "spike"}
_ROLE = re.compile(r"^([bsrk])\s*(?=[\d<>])", re.IGNORECASE)
_COUNT = re.compile(r"^(\d{1,3})\s*([-?]?)$")
_BETWEEN = re.compile(
    r"^(?:between\s+)?(\d+(?:[.,]\d+)?)\s*(?:-|–|\.\.|to|and)\s*(\d+(?:[.,]\d+)?)$", re.IGNORECASE
)
_NOT_TESTED = re.compile(r"^(?:x|–|-|nt|not tested)(?:$|[\s:,]+)(.*)$", re.IGNORECASE)
_NUMBER = re.compile(r"\d+(?:\.\d+)?")


@dataclass(frozen=True)
class Cell:
    """acts: what a run gets of it. wrong: why it cannot be read; empty where it can."""

    acts: tuple[Act, ...] = ()
    wrong: str = ""


def read_cell(method: Method, stage_id: str, text: str, lots: Lots = NO_LOTS) -> Cell:
    """What was typed of one stage. Nothing where the cell is empty; a sentence in *wrong* where it
    cannot be read."""
    said = " ".join(text.split())
    if not said:
        return Cell()
    if said.casefold() in ("n/a", "na", "not applicable"):
        return Cell((("stop", {"cause": "not applicable", "finish": "not-applicable"}),))
    if found := _NOT_TESTED.match(said):
        why = found[1].strip() or "no reason on the paper"
        return Cell((("stop", {"cause": why}),))
    stage = next(one for one in method.stages if one.id == stage_id)
    reader = stage.reader(lots)
    try:
        acts = list(_measurements(stage, reader, said))
    except InvalidReading as error:
        return Cell((), str(error))
    return Cell(tuple(_with_last(acts)))


def _measurements(stage: Stage, reader: ReadingType, said: str) -> Iterator[Act]:
    for part in _parts(reader, said):
        role, rest = "sample", part
        if found := _ROLE.match(part):
            role, rest = ROLES[found[1].casefold()], part[found.end() :].strip()
        data: dict[str, Any] = {"role": role, "stage": stage.id}
        if reader.reading_fields:
            data |= _readings(reader, rest)
        else:
            data |= _count(reader, rest, stage.most)
        yield "enter", data


def _parts(reader: ReadingType, said: str) -> list[str]:
    """The measurements of a cell; of counts, and of plain numbers, a space between them will do."""
    if ";" in said:
        return [part.strip() for part in said.split(";") if part.strip()]
    words = said.split(" ")
    plain = all(re.fullmatch(r"[bsrk]?[<>]?\d[\d.,]*[-?]?", word, re.IGNORECASE) for word in words)
    alone = len(reader.reading_fields) <= 1
    return words if plain and alone else [said]


def _count(reader: ReadingType, said: str, most: int) -> dict[str, Any]:
    """A count: 7, 7-, 7?, < for no colour, > for no change up to the last one."""
    if said.startswith(">"):
        return {"kind": "beyond", "drops": most}
    if said.startswith("<") or said.casefold() == "absent":
        return {"kind": "absent"}
    found = _COUNT.match(said)
    if not found:
        raise InvalidReading(
            f"{said[:20]!r} is no count of {reader.step_unit}.",
            remedy="Type 7, 7? for in doubt, 7- for one too many, > for no change.",
        )
    drops = int(found[1])
    if not reader.main.low <= drops <= most:
        raise InvalidReading(
            f"{drops} {reader.step_unit} cannot be.", remedy=f"From {reader.main.low} to {most}."
        )
    kind = {"": "plain", "-": "backed-off", "?": "doubt"}[found[2]]
    return {"drops": drops, "kind": kind}


def _readings(reader: ReadingType, said: str) -> dict[str, Any]:
    """The readings of one measurement, each as its scale reads it, "/" between them."""
    fields = reader.reading_fields
    parts = [part.strip() for part in said.split("/")] if len(fields) > 1 else [said]
    if len(parts) != len(fields):
        asked = " / ".join(fields)
        raise InvalidReading(
            f"One measurement has {len(fields)} readings.", remedy=f"Type {asked}."
        )
    if said.casefold() == "absent":
        below = [_raw(reader.scale(slot), "<") for slot in fields]
        return {"kind": "absent", "raw": ";".join(below)}
    raws = []
    for slot, part in zip(fields, parts, strict=True):
        scale = reader.scale(slot)
        raw = _raw(scale, part)
        scale.parse(raw, sure=True)
        raws.append(raw)
    return {"raw": ";".join(raws)}


def _raw(scale: Scale, said: str) -> str:
    """What was written as the scale reads it: a shade by its figure, a bracket, "<", ">"."""
    text = said.replace(",", ".") if re.fullmatch(r"[<>]?\s*\d+,\d+", said) else said
    if not scale.labels:
        return scale.raw(text)
    if text.startswith("<"):
        return str(scale.low)
    if text.startswith(">"):
        return str(scale.low + len(scale.labels) - 1)
    exact = scale.raw(text)
    if exact.lstrip("-").isdigit() and exact != text:
        return exact
    wanted = [float(one.replace(",", ".")) for one in _figures(text)]
    held = [[float(one) for one in _NUMBER.findall(label)] for label in scale.labels]
    same = [at for at, figures in enumerate(held) if figures and figures == wanted]
    between = [
        at
        for at, figures in enumerate(held)
        if len(figures) == 2 and len(wanted) == 1 and min(figures) < wanted[0] < max(figures)
    ]
    if found := same or between:
        return str(scale.low + found[0])
    ends = f"From {scale.labels[0]} to {scale.labels[-1]}; with - for between two."
    raise InvalidReading(f"{said[:30]!r} is no position of this scale.", remedy=ends)


def _figures(text: str) -> list[str]:
    """The figure of a shade, or the two that it lies between."""
    if found := _BETWEEN.match(text):
        return [found[1], found[2]]
    return re.findall(r"^\d+(?:\.\d+)?", text)


def _with_last(acts: list[Act]) -> Iterator[Act]:
    """The last measurement of the sample says that it is the last."""
    last = max((at for at, (_, one) in enumerate(acts) if one["role"] == "sample"), default=-1)
    for at, (name, data) in enumerate(acts):
        yield name, data | {"last": 1} if at == last else data
