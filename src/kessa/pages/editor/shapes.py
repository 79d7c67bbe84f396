"""What the buttons of the editor do to a draft's shape."""

from collections.abc import Callable
from typing import Any

from kessa_core.drafts import edits, pasting, starts
from kessa_core.drafts.edits import get, path_of
from kessa_core.drafts.starts import Draft
from kessa_core.errors import CoreError

NEW_STEP: dict[str, dict[str, Any]] = {
    "tick": {"kind": "tick", "title": "", "picture": "fill"},
    "wait": {"kind": "wait", "title": "Wait", "picture": "timer",
             "wait": {"rule": "exactly", "seconds": 60}},
    "check": {"kind": "check", "title": "", "picture": "colour", "answers": [
        {"id": "yes", "label": "Yes", "then": "next"},
        {"id": "no", "label": "No", "then": "again", "cause": "it was not right"},
    ]},
    "read": {"kind": "read", "title": "", "picture": "instrument", "slot": "reading"},
    "count": {"kind": "count", "title": "Add one drop, swirl, look", "picture": "count"},
}  # fmt: skip
NEW_PART: dict[str, dict[str, Any]] = {
    "blank": {"water": "deionised water", "passes_at_most": 1, "subtract": False,
              "suspects": [{"what": "Water", "do": "Open a fresh bottle."}]},
    "standard": {"low_percent": 90, "high_percent": 110, "name": "standard"},
    "reference": {"water": "mains water"},
    "spike": {"low_percent": 80, "high_percent": 120},
    "predilution": {"times": 10, "sd": 0.015},
    "below": {"then": "report", "say": "Below the measuring range. Report it as less than."},
}  # fmt: skip
ENTRIES: dict[str, Any] = {"waste": {"route": "drain"}, "reagents": {"form": "drops"}}
"""What a new entry of a list begins with, by the list's name."""


class NoSuchChange(CoreError):
    """A button that the editor does not have."""


def changing(asked: dict[str, str]) -> Callable[[Draft], Draft | None]:
    """What the pressed button does. asked: do, path and what else the button says.

    Raises NoSuchChange for a button that does not exist, BadPaste for a table that is none.
    """
    do, path = asked.get("do", ""), path_of(asked.get("path", ""))
    made: dict[str, Callable[[Draft], Draft | None]] = {
        "add": lambda draft: edits.add(draft, path, _entry(path)),
        "add-step": lambda draft: _add_step(draft, path, asked.get("kind", "tick")),
        "add-part": lambda draft: edits.put(draft, path, _part(path)),
        "add-stage": _add_stage,
        "remove": lambda draft: edits.remove(draft, path),
        "up": lambda draft: edits.move(draft, path, -1),
        "down": lambda draft: edits.move(draft, path, 1),
        "hold": lambda draft: starts.hold_something_else(
            draft, _number(path), asked.get("held", "")
        ),
        "use": lambda draft: edits.put(draft, path, asked.get("value", "") or None),
    }
    if do == "paste":
        return _paste(path, asked.get("pasted", ""))
    if do not in made or (not path and do != "add-stage"):
        raise NoSuchChange("There is no such button.")
    return made[do]


def _number(path: edits.Path) -> int:
    return next((part for part in path if isinstance(part, int)), 0)


def _entry(path: edits.Path) -> Any:
    return ENTRIES.get(str(path[-1]), {})


def _part(path: edits.Path) -> Any:
    return dict(NEW_PART.get(str(path[-1]), {}))


def _add_step(draft: Draft, path: edits.Path, kind: str) -> None:
    """Before the step that counts or reads, which stays the last one."""
    step = {"id": _free_id(draft, kind)} | NEW_STEP.get(kind, NEW_STEP["tick"])
    held = get(draft, path)
    ends = path[-1] == "steps" and isinstance(held, list) and held
    last = held[-1].get("kind") if ends and isinstance(held[-1], dict) else ""
    at = len(held) - 1 if last in ("count", "read") and kind not in ("count", "read") else None
    edits.add(draft, path, step, at)


def _free_id(draft: Draft, kind: str) -> str:
    """A key that no step has yet."""
    word = {"tick": "step", "check": "question"}.get(kind, kind)
    text = str(draft)
    return next(f"{word}-{n}" for n in range(1, 200) if f"'{word}-{n}'" not in text)


def _add_stage(draft: Draft) -> None:
    """Another stage on the same sample, held the same way."""
    stages = draft.setdefault("stages", [])
    key = starts.start_of(draft, len(stages) - 1) or "drops"
    new = starts.new_stage(key, f"result-{len(stages) + 1}")
    for step in new["steps"]:
        step["id"] = f"{step['id']}-{len(stages) + 1}"
        if "wait" in step and step["wait"].get("starts"):
            step["wait"]["starts"] += f"-{len(stages) + 1}"
    stages.append(new)


def _paste(path: edits.Path, text: str) -> Callable[[Draft], Draft | None]:
    """A leaflet's table in place of the one that stands there; colours it lacks stay."""
    if path[-1:] != ("shades",):
        pasted = [{"read": read, "value": value} for read, value in pasting.rows(text)]

        def rows(draft: Draft) -> None:
            edits.put(draft, path, pasted)
            starts.follow_decimals(draft, _number(path))

        return rows
    found = pasting.shades(text)

    def shades(draft: Draft) -> None:
        held = get(draft, path)
        was = held if isinstance(held, list) else []
        edits.put(draft, path, [
            {"value": one.value, "colour": _colour(was, at, len(found), one)}
            for at, one in enumerate(found)
        ])  # fmt: skip
        starts.follow_decimals(draft, _number(path))

    return shades


def _colour(was: list[Any], at: int, count: int, one: pasting.PastedShade) -> dict[str, str]:
    old = was[at].get("colour", {}) if at < len(was) and isinstance(was[at], dict) else {}
    share = at / max(count - 1, 1)
    ends = ((247, 243, 236), (165, 60, 103))
    mixed = "".join(f"{round(a + (b - a) * share):02X}" for a, b in zip(*ends, strict=True))
    return {
        "name": one.name or old.get("name") or f"shade {at + 1}",
        "hex": one.hex or old.get("hex") or f"#{mixed}",
    }
