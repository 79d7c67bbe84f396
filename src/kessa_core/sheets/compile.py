"""Compile a method, its limits and the usual range into a worksheet (JSON) for the bench page."""

import hashlib
import json
from dataclasses import asdict, replace
from functools import lru_cache
from math import ceil, floor, sqrt
from typing import Any

import numpy as np

from kessa_core import VERSION
from kessa_core.judging.context import PointContext
from kessa_core.methods import Method
from kessa_core.methods.stage import Stage
from kessa_core.methods.steps import AIDS, LEAVES, Step, Wait, duration_words
from kessa_core.methods.suitability import NOTHING_KNOWN, suitability_warnings
from kessa_core.quality.repeats import agreeing
from kessa_core.readings.lots import Lots
from kessa_core.readings.reading_type import ReadingType
from kessa_core.readings.scale import Scale
from kessa_core.runs.clocks import LATE_S
from kessa_core.runs.stage_readers import reader_of_stage
from kessa_core.sheets.tables import tables
from kessa_core.sheets.words import common_words, stage_words


def compile_sheet(method: Method, setting: PointContext) -> dict[str, Any]:
    """The sheet of one method at one place.

    Keys: `steps` and each stage's `order` (the machine), `rules` (whole numbers), `slots` (the
    scales), `words`, and each stage's tables (kessa_core.sheets.tables). A reading with neither
    row nor band is "later": kept, its value follows when sent.
    """
    sheet: dict[str, Any] = {
        "v": 2,
        "core": VERSION,
        "method": {
            "id": method.id,
            "version": method.version,
            "hash": method.hash,
            "title": method.title,
            "short": method.short,
            "parameter": method.quantity.name,
        },
        "before": [step.id for step in method.before],
        "steps": {step.id: _step(step, method, setting.lots) for step in method.every_step},
        "stages": _stages(method, replace(setting, known=NOTHING_KNOWN, waste=())),
        "derived": [{"id": one.id, "title": one.title} for one in method.derived],
        "words": common_words(method, setting.waste),
    }
    if asked := suitability_warnings(method.sample, setting.known):
        sheet["asks"] = [asdict(concern) for concern in asked]
    if method.sample.start_within_min is not None:
        sheet["within"] = method.sample.start_within_min
    if method.sample.ph:
        sheet["ph"] = [method.sample.ph.low, method.sample.ph.high]
    content = json.dumps(sheet, sort_keys=True, separators=(",", ":"))
    return sheet | {"id": hashlib.sha256(content.encode()).hexdigest()[:16]}


@lru_cache(maxsize=32)
def _stages(method: Method, setting: PointContext) -> list[dict[str, Any]]:
    """The stages with their tables: most of the work, and the same until a limit, a lot or what is
    usual changes. Kept, so not to be altered by whoever gets it."""
    return [_stage(method, at, setting) for at in range(len(method.stages))]


def _stage(method: Method, at: int, everywhere: PointContext) -> dict[str, Any]:
    stage = method.stages[at]
    setting = everywhere.of(stage.measures.quantity)
    reader = stage.reader(setting.lots)
    return {
        "id": stage.id,
        "title": stage.title,
        "parameter": stage.measures.quantity.name,
        "by": reader.by,
        "drawn": _drawn(reader),
        "base": stage.base,
        "overAnywhere": reader.over_anywhere,
        "rising": reader.rising,
        "counts": reader.counts,
        "roles": list(stage.roles),
        "prepare": [step.id for step in stage.prepare],
        "flask": list(method.flask(at)) if stage.repeats.least > 1 else [at],
        "spike": stage.spike is not None,
        "photo": "" if len(method.flask(at)) > 1 else reader.photographed,
        "order": {
            role: [step.id for step in stage.steps_for(role, role == "diluted")]
            for role in ("blank", "standard", "reference", "sample", "spike")
        }
        | {"diluted": [step.id for step in stage.steps_for("sample", True)]},
        "slots": {slot: as_sheet_scale(reader.scale(slot)) for slot in reader.reading_fields},
        "weights": reader.weights(),
        "halvesAtZero": reader.halves_at_zero,
        "rules": _rules(stage, reader),
        "plan": _plan(stage),
        "usual": _usual(stage, setting),
        "far": _far(stage, reader, setting),
        "unlikely": _unlikely(stage, reader),
        "continues": stage.continues or "",
        "words": stage_words(stage, reader),
        **tables(stage, reader_of_stage(stage, setting.lots), setting),
    }


def _drawn(reader: ReadingType) -> dict[str, str]:
    """What pictures of its steps show: the portion, the colour at the start."""
    made = {"portion": reader.portion} if reader.portion else {}
    start = reader.start_colour
    return made | ({"start": start.name, "hex": start.hex} if start else {})


def _step(step: Step, method: Method, lots: Lots) -> dict[str, Any]:
    kept = step.model_dump(
        exclude_none=True,
        exclude_defaults=True,
        exclude={"id", "only", "waters", "wording", "aids", "leaves", "wait", "answers"},
    )
    made = kept | {"kind": step.kind, "title": step.title}
    if step.answers:
        made["answers"] = [a.model_dump(exclude_none=True) for a in step.answers]
    if step.aids:
        made["aids"] = [AIDS[aid] for aid in step.aids]
    if worded := _worded(step):
        made["worded"] = worded
    if step.leaves:
        made["then"] = LEAVES[step.leaves]
    if step.wait:
        made["wait"] = _wait(step.wait, method, lots)
    return made


def _worded(step: Step) -> dict[str, dict[str, str]]:
    """What reads or looks differently, by the kind of measurement."""
    found = {
        role: step.worded(role) for role in ("blank", "standard", "reference", "sample", "spike")
    } | {"diluted": step.worded("sample", True)}
    return {role: words for role, words in found.items() if words}


def _wait(wait: Wait, method: Method, lots: Lots) -> dict[str, Any]:
    """Seconds the clock counts, and its words. computed: a table by the reading of its stage."""
    made: dict[str, Any] = {
        "rule": wait.rule,
        "s": wait.longest_s,
        "words": _wait_words(wait),
        "early": wait.rule in ("at-most", "until"),
    }
    if wait.is_long:
        made["long"] = True
    most = {"between": wait.to_seconds, "at-most": wait.seconds, "exactly": wait.seconds}
    if (end := most.get(wait.rule)) is not None:
        made["to"] = end + (int(LATE_S) if wait.rule == "exactly" else 0)
    if wait.starts:
        made["starts"] = wait.starts
    if wait.until:
        made["until"] = wait.until
    if stage := method.stage(wait.of_stage or ""):
        made |= {"of": stage.id, "table": _by_halves(wait, stage.reader(lots), stage.base)}
    return made


def _by_halves(wait: Wait, reader: ReadingType, base: int) -> list[list[int]]:
    """Rows [halves, seconds]: up to these half steps of the stage's reading, so long."""
    top, times = 2 * reader.main.high, base * reader.correction
    return [
        [max((h for h in range(top + 1) if times * reader.at(h) <= float(band.up_to)), default=0),
         band.seconds]
        for band in wait.table
    ]  # fmt: skip


def _between(wait: Wait) -> str:
    """ "between 24 h and 28 h"."""
    return f"between {duration_words(wait.seconds or 0)} and {duration_words(wait.to_seconds or 0)}"


def _wait_words(wait: Wait) -> str:
    said = {
        "exactly": "exactly",
        "at-least": "at least",
        "at-most": "at most",
        "between": _between(wait),
        "until": "until",
        "instrument": "the instrument counts",
        "computed": "from the result before",
        "typed": "as the instrument shows",
    }[wait.rule]
    notes = [said]
    if wait.temperature_c:
        notes.append(f"at {wait.temperature_c.low} to {wait.temperature_c.high} °C")
    if wait.dark:
        notes.append("in the dark")
    if wait.attended:
        notes.append("hands busy all the time")
    if wait.reads_itself:
        notes.append("the instrument reads automatically at the end")
    if wait.late_matters:
        notes.append("not later")
    return ", ".join(notes)


def as_sheet_scale(scale: Scale) -> dict[str, Any]:
    """A scale as the page reads it."""
    made: dict[str, Any] = {"low": scale.low, "high": scale.high, "unit": scale.unit}
    if scale.labels:
        made["labels"] = list(scale.labels)
    else:
        made |= {"decimals": scale.decimals, "every": scale.every}
    if scale.over:
        made["over"] = True
        if scale.over_at is not None:
            made["overAt"] = scale.over_at
        if scale.over_asks:
            made["overAsks"] = True
    if scale.under:
        made["under"] = True
        if scale.under_at is not None:
            made["underAt"] = scale.under_at
    if scale.ranges:
        made["ranges"] = [
            {"unit": r.unit, "decimals": r.decimals, "low": r.low, "high": r.high, "zeros": r.zeros}
            for r in scale.ranges
        ]
    return made


def _rules(stage: Stage, reader: ReadingType) -> dict[str, Any]:
    rule = stage.repeats
    made: dict[str, Any] = {"least": rule.least, "first": rule.report == "first"}
    if reader.most:
        made |= {"max": reader.most, "from": reader.main.low}
    if stage.blank:
        made["blankHalves"] = 2 * stage.blank.passes_at_most
        made["subtract"] = stage.blank.subtract
    if rule.least == 1:
        made["agreeHalves"] = 0
    elif rule.agree.steps is not None:
        made["agreeHalves"] = 2 * rule.agree.steps
    else:
        made["agreeTo"] = _agree_to(stage, reader)
    end = stage.above
    made["dilute"] = list(end.by)
    made["next"] = end.method
    if stage.below and stage.below.method:
        made["finer"] = stage.below.method
    return made


def _agree_to(stage: Stage, reader: ReadingType) -> list[int]:
    """By a reading in half steps: up to how many half steps a higher one agrees with it."""
    agree = agreeing(stage.repeats.agree, reader)
    scale = reader.main
    top = 2 * (scale.high - min(scale.low, 0)) + 1
    found, reach = [], 0
    for low in range(top):
        reach = max(reach, low)
        while reach + 1 < top and agree(low, reach + 1):
            reach += 1
        found.append(reach)
    return found


SECONDS = {"tick": 25, "check": 10, "count": 45, "read": 15, "wait": 0}
"""Usual seconds of hands a kind of step, where the document does not say."""


def seconds_of(step: Step) -> int:
    """Expected seconds of hands and clock for one step."""
    return hands_of(step) + (step.wait.longest_s if step.wait else 0)


def hands_of(step: Step) -> int:
    """Expected seconds of hands for one step."""
    return step.seconds or SECONDS[step.kind]


def _plan(stage: Stage) -> dict[str, int]:
    """Expected seconds of hands and clocks for a determination of each kind."""

    def seconds(role: str) -> int:
        return sum(map(seconds_of, stage.steps_for(role)))

    return {role: seconds(role) for role in ("blank", "standard", "reference", "sample")}


FAR = 8.0
"""Times more or less than usual at which a reading is asked about before it is taken."""


def _far(stage: Stage, reader: ReadingType, setting: PointContext) -> list[Any] | None:
    """Half steps at and beyond which a reading is far from what is usual here, and the question."""
    normal = setting.usual
    if not normal or normal.median <= 0 or not reader.weights():
        return None
    usual = normal.text(stage.measures.decimals)
    median = normal.median / stage.base
    ends = sorted(float(reader.model.scale_position(median * times)) for times in (1 / FAR, FAR))
    below, above = floor(2 * ends[0]), ceil(2 * ends[1])
    asked = f"That is far from what is usual here ({usual})."
    return [below, above, f"{asked} Check the decimal point. Is the reading right?"]


UNLIKELY = 5.0
"""Sd between two determinations from which on they are asked about before they are taken."""
PLACES = 24
"""Places along a scale at which that is worked out."""


def _unlikely(stage: Stage, reader: ReadingType) -> list[list[int]]:
    """Rows [half steps, apart]: from there on, two determinations that lie more half steps apart
    than this are improbable. None where nothing is asked: counts, and what is computed later."""
    if not reader.asks_about_apart:
        return []
    rule = stage.repeats.agree
    low, high = reader.model.ends
    agree = agreeing(rule, reader)
    rows = []
    for u in np.linspace(max(low, 0.0), high, PLACES):
        at = floor(2 * u)
        apart = ceil(2 * UNLIKELY * sqrt(2) * float(reader.model.scatter(np.array([u]))[0])) + 2
        while agree(at, at + apart):
            apart *= 2
        rows.append([at, apart])
    return rows


def _usual(stage: Stage, setting: PointContext) -> str:
    if not setting.usual:
        return ""
    measures = stage.measures
    return f"{setting.usual.text(measures.decimals)} {measures.unit}{setting.usual.mark}"
