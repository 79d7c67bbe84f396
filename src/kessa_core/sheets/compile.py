"""Method, limits and usual -> sheet: plain data that a small player can play."""

import hashlib
import json
from typing import Any

from kessa_core import VERSION
from kessa_core.methods import Method
from kessa_core.methods.parts import Step
from kessa_core.quantities.rounding import figure
from kessa_core.readings.dropcount import DropReading
from kessa_core.sheets import rows
from kessa_core.sheets.rows import Setting
from kessa_core.sheets.words import words

__all__ = ["Setting", "compile_sheet"]


def compile_sheet(method: Method, setting: Setting) -> dict[str, Any]:
    """The sheet of one method at one place.

    Keys: `steps` and `order` (the machine), `rules` (whole numbers), `words`, and the tables
    `running` (by count), `single` ("blank:kind:count"), `pair` ("blank:low:high"), `beyond`
    ("blank"). A reading with no row is "later": kept, its value follows when sent.
    """
    sheet: dict[str, Any] = {
        "v": 1,
        "core": VERSION,
        "method": {
            "id": method.id,
            "version": method.version,
            "hash": method.hash,
            "title": method.title,
            "short": method.short,
            "parameter": method.quantity.name,
        },
        "order": _order(method),
        "steps": {step.id: _step(step) for step in (*method.steps.before, *method.steps.each)},
        "rules": {
            "max": method.titration.max_drops,
            "blankHalves": 2 * method.blank.passes_at_most,
            "agreeHalves": 2 * method.repeats.agree_within_drops,
        },
        "colours": {
            "start": method.titration.start_colour.model_dump(),
            "end": method.titration.end_colour.model_dump(),
        },
        "next": method.out_of_range.method,
        "plan": _plan(method),
        "usual": _usual(method, setting),
        "words": words(method),
        "running": _running(method),
        **_tables(method, setting),
    }
    content = json.dumps(sheet, sort_keys=True, separators=(",", ":"))
    return sheet | {"id": hashlib.sha256(content.encode()).hexdigest()[:16]}


def _order(method: Method) -> dict[str, list[str]]:
    return {
        "before": [step.id for step in method.steps.before],
        "blank": [step.id for step in method.steps.each if step.only != "sample"],
        "sample": [step.id for step in method.steps.each if step.only != "blank"],
    }


def _step(step: Step) -> dict[str, Any]:
    kept = step.model_dump(exclude_none=True, exclude={"id", "only"})
    return kept | {"answers": [a.model_dump(exclude_none=True) for a in step.answers]}


SECONDS = {"tick": 25, "check": 10, "count": 45}
"""Usual seconds of hands a kind of step; only the line on the bench uses them."""


def _plan(method: Method) -> dict[str, int]:
    """Expected seconds of the steps before, of a blank, and of one determination."""

    def seconds(steps: list[Step]) -> int:
        return sum(SECONDS[step.kind] for step in steps)

    each = method.steps.each
    return {
        "before": seconds(list(method.steps.before)),
        "blank": seconds([step for step in each if step.only != "sample"]),
        "sample": seconds([step for step in each if step.only != "blank"]),
    }


def _usual(method: Method, setting: Setting) -> str:
    if not setting.usual:
        return ""
    return f"{setting.usual.text(method.measures.decimals)} {method.measures.unit}"


def _running(method: Method) -> list[str]:
    unit, decimals = method.measures.unit, method.measures.decimals
    return [
        f"{figure(count * method.factor, decimals)} {unit}"
        for count in range(method.titration.max_drops + 1)
    ]


def _tables(method: Method, setting: Setting) -> dict[str, Any]:
    single: dict[str, Any] = {}
    pair: dict[str, Any] = {}
    beyond: dict[str, Any] = {}
    top, agree = method.titration.max_drops, method.repeats.agree_within_drops
    for taken in range(1, method.blank.passes_at_most + 1):
        blank = DropReading(taken)
        beyond[str(taken)] = rows.beyond(method, blank, setting)
        for count in range(1, top + 1):
            readings = [DropReading(count), DropReading(count, "backed-off")]
            if count > 1:
                readings.append(DropReading(count, "doubt"))
            for reading in readings:
                key = f"{taken}:{reading.kind}:{count}"
                single[key] = rows.single(method, reading, blank, setting)
            for other in range(count, min(count + agree, top) + 1):
                both = [DropReading(count), DropReading(other)]
                pair[f"{taken}:{count}:{other}"] = rows.pair(method, both, blank, setting)
    return {"single": single, "pair": pair, "beyond": beyond}
