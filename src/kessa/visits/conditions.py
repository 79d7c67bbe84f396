"""What is noted at a water beside weather and temperatures, by its kind."""

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any, Literal

DATA = Path(__file__).parent / "data" / "conditions.toml"
Page = Literal["context", "take"]


@dataclass(frozen=True)
class Condition:
    """One thing that is noted. choices: what it can be; none for a number or a line. as_list: so
    many choices that they stand in a list. holds: last time's answer may still be right."""

    key: str
    page: Page
    label: str
    waters: tuple[str, ...]
    choices: tuple[str, ...]
    is_number: bool
    as_list: bool
    holds: bool


@lru_cache
def every_condition() -> tuple[Condition, ...]:
    """All of them, in the order in which they are asked."""
    found = tomllib.loads(DATA.read_text(encoding="utf-8"))
    return tuple(
        Condition(
            key,
            one["page"],
            one["label"],
            tuple(one["waters"]),
            tuple(one["ask"]) if isinstance(one["ask"], list) else (),
            one["ask"] == "number",
            one.get("as") == "list",
            one.get("holds", False),
        )
        for key, one in found.items()
    )


def conditions_at(kind: str, page: Page) -> list[Condition]:
    """What is asked on a page at a water of this kind."""
    return [one for one in every_condition() if kind in one.waters and one.page == page]


def said_of(noted: Mapping[str, Any]) -> list[tuple[str, str]]:
    """What was noted, with its labels, in the order in which it was asked."""
    return [
        (one.label, str(noted[one.key]))
        for one in every_condition()
        if noted.get(one.key) not in (None, "")
    ]
