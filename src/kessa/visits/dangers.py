"""What to look at before a sample is taken, by kind of water."""

import tomllib
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

DATA = Path(__file__).parent / "data" / "dangers.toml"


@dataclass(frozen=True)
class Danger:
    """One danger. look: what to do about it; reason: why nothing is sampled, in the record."""

    key: str
    waters: tuple[str, ...]
    look: str
    reason: str


@lru_cache
def every_danger() -> tuple[Danger, ...]:
    """All of them, in the order in which they are looked at."""
    found = tomllib.loads(DATA.read_text(encoding="utf-8"))
    return tuple(
        Danger(key, tuple(one["waters"]), one["look"], one["reason"]) for key, one in found.items()
    )


def dangers_at(kind: str) -> list[Danger]:
    """What to look at where the water is of this kind."""
    return [one for one in every_danger() if kind in one.waters]
