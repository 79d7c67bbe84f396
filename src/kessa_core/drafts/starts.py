"""What a person may hold in the hand, and the document that an answer begins with."""

import copy
import re
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any

import yaml

from kessa_core.errors import UnknownName
from kessa_core.methods import Method
from kessa_core.methods.document import FORMAT
from kessa_core.quantities import parameters

Draft = dict[str, Any]
"""A method document as plain data, complete or not."""
FIGURES = ("factor", "per_tablet", "per_ml", "multiplier")
"""What one step of a reading stands for, by its key."""


@dataclass(frozen=True)
class Start:
    """One thing held in the hand: how it is read, and what a draft begins with."""

    id: str
    label: str
    hint: str
    reading: Draft
    influences: list[Draft]
    reagents: list[Draft]
    steps: list[Draft]
    repeats: Draft

    @property
    def by(self) -> str:
        """The reading type."""
        return str(self.reading["by"])


@cache
def starts() -> dict[str, Start]:
    """Every start by its id, in the order in which they are offered."""
    text = resources.files("kessa_core.drafts").joinpath("data", "starts.yaml").read_text("utf-8")
    found = yaml.load(text, Loader=yaml.CSafeLoader)
    return {key: Start(key, **({"reagents": []} | entry)) for key, entry in found.items()}


def start(key: str) -> Start:
    """The start with this id; raises UnknownName with those that exist."""
    try:
        return starts()[key]
    except KeyError:
        known = ", ".join(starts())
        raise UnknownName(
            f"There is no {key!r} to begin with.", remedy=f"Known: {known}."
        ) from None


def start_of(draft: Draft, stage: int = 0) -> str:
    """Which start a stage of a draft came from; empty where none fits."""
    reading = _stage(draft, stage).get("reading")
    if not isinstance(reading, dict):
        return ""
    wanted = reading.get("by")
    fits = [
        one
        for one in starts().values()
        if one.by == wanted
        if one.reading.get("device") in (None, reading.get("device"))
    ]
    same = [one for one in starts().values() if one.by == wanted]
    return (fits or same)[0].id if fits or same else ""


def begin(key: str, title: str) -> Draft:
    """A draft that begins with what is held in the hand.

    Raises UnknownName as start().
    """
    held = copy.deepcopy(start(key))
    return {
        "format": FORMAT,
        "id": id_from(title),
        "version": 1,
        "title": title,
        "short": title[:30].strip(),
        "sample": {"volume_ml": 50},
        "reagents": held.reagents,
        "stages": [new_stage(key, "result")],
        "waste": [],
        "changes": [],
    }


def new_stage(key: str, stage_id: str) -> Draft:
    """A stage that begins with what is held in the hand. Raises UnknownName as start()."""
    held = copy.deepcopy(start(key))
    return {
        "id": stage_id,
        "reading": held.reading,
        "influences": held.influences,
        "steps": held.steps,
        "repeats": held.repeats,
        "above": {"then": "report", "say": "Above the measuring range. Report it as more than."},
    }


def hold_something_else(draft: Draft, stage: int, key: str) -> Draft:
    """The draft with another thing in the hand: its reading, last steps and sources are new, what
    is measured stays. Raises UnknownName as start()."""
    made = copy.deepcopy(draft)
    held = copy.deepcopy(start(key))
    changed = _stage(made, stage)
    kept = {
        name: changed[name] for name in ("title", "measures", "blank", "above") if name in changed
    }
    new = new_stage(key, changed.get("id", "result"))
    changed.clear()
    changed |= new | kept
    names = {reagent.get("name") for reagent in made.get("reagents", [])}
    made.setdefault("reagents", [])
    made["reagents"] += [one for one in held.reagents if one["name"] not in names]
    return made


def follow_parameters(was: Draft, now: Draft) -> bool:
    """Where another parameter was chosen, its first form and basis and its unit follow, its name
    where the result has none, and as many decimals as its reading has where none were said;
    whether anything did."""
    followed = False
    for at in range(len(now["stages"]) if isinstance(now.get("stages"), list) else 0):
        measures = _stage(now, at).get("measures")
        before = _stage(was, at).get("measures")
        if not isinstance(measures, dict):
            continue
        key = str(measures.get("parameter", ""))
        known = parameters().get(key)
        if known is None or (isinstance(before, dict) and before.get("parameter") == key):
            continue
        if not _stage(now, at).get("title"):
            _stage(now, at)["title"] = known.name
        measures |= {"form": known.forms[0], "unit": known.unit}
        measures.pop("also", None)
        measures.pop("basis", None)
        if known.bases[0]:
            measures["basis"] = known.bases[0]
        measures.setdefault("decimals", 0)
        follow_decimals(now, at)
        followed = True
    return followed


def asks_another_field(was: Draft, now: Draft) -> bool:
    """Whether a choice was made, or taken back, that makes another field necessary."""
    stages = now.get("stages")
    return any(
        (_reading(was, at).get("offset") == "given") != (_reading(now, at).get("offset") == "given")
        for at in range(len(stages) if isinstance(stages, list) else 0)
    )


def _reading(draft: Draft, at: int) -> Draft:
    found = _stage(draft, at).get("reading")
    return found if isinstance(found, dict) else {}


def follow_decimals(draft: Draft, at: int) -> None:
    """At least as many decimals as the stage's display, factor or table gives."""
    stage = _stage(draft, at)
    measures, reading = stage.get("measures"), stage.get("reading")
    if not isinstance(measures, dict) or not isinstance(reading, dict):
        return
    rows = [*_entries(reading, "shades"), *_entries(reading, "rows"), *_entries(reading, "example")]
    figures = [reading.get(key) for key in FIGURES] + [row.get("value") for row in rows]
    finest = max(len(str(one or "").partition(".")[2]) for one in figures)
    shown = reading.get("decimals")
    said = [one for one in (finest, shown, measures.get("decimals")) if isinstance(one, int)]
    measures["decimals"] = min(max(said), 6)


def _entries(reading: Draft, key: str) -> list[Draft]:
    """The rows of a table of the reading, such as are any."""
    held = reading.get(key)
    return [one for one in held if isinstance(one, dict)] if isinstance(held, list) else []


def from_method(method: Method, title: str) -> Draft:
    """A draft that begins as a copy of another method, under a name of its own."""
    made: Draft = method.model_dump(mode="json", exclude_defaults=True)
    made |= {"id": id_from(title), "title": title, "short": title[:30].strip(), "version": 1}
    made.pop("local_settings", None)
    made["changes"] = []
    return made


def id_from(title: str) -> str:
    """A key that a title makes: lower case, hyphens."""
    words = re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")
    return f"own-{words}"[:60].rstrip("-") if words else "own-method"


def _stage(draft: Draft, stage: int) -> Draft:
    stages = draft.get("stages")
    if not isinstance(stages, list) or not 0 <= stage < len(stages):
        return {}
    found: Draft = stages[stage] if isinstance(stages[stage], dict) else {}
    return found
