"""Changes to a draft by path, and two people's changes to it brought together."""

import copy
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from kessa_core.drafts.starts import Draft
from kessa_core.errors import CoreError

Path = tuple[str | int, ...]


class NoSuchPlace(CoreError):
    """A path that the draft does not have: somebody else took it away meanwhile."""


def path_of(text: str) -> Path:
    """ "stages.0.steps.2.title" -> ("stages", 0, "steps", 2, "title")."""
    return tuple(int(part) if part.isdigit() else part for part in text.split(".") if part)


def dotted(path: Path) -> str:
    """The path as the name of a field."""
    return ".".join(map(str, path))


def get(draft: Draft, path: Path) -> Any:
    """What stands at a path; None where nothing does."""
    here: Any = draft
    for part in path:
        if isinstance(here, dict) and isinstance(part, str):
            here = here.get(part)
        elif isinstance(here, list) and isinstance(part, int) and part < len(here):
            here = here[part]
        else:
            return None
    return here


def put(draft: Draft, path: Path, value: Any) -> None:
    """Set what stands at a path; None takes it away. Parts on the way are made.

    Raises NoSuchPlace where a list has no such entry.
    """
    here: Any = draft
    for part, following in pairwise(path):
        if isinstance(here, list):
            here = _entry(here, part, path)
        elif isinstance(here, dict):
            if value is None and part not in here:
                return
            here = here.setdefault(str(part), [] if isinstance(following, int) else {})
        else:
            raise _gone(path)
    _set(here, path, value)


def _set(here: Any, path: Path, value: Any) -> None:
    last = path[-1]
    if isinstance(here, list) and isinstance(last, int):
        _entry(here, last, path)
        here[last] = value
    elif isinstance(here, dict):
        if value is None:
            here.pop(str(last), None)
        else:
            here[str(last)] = value
    else:
        raise _gone(path)


def _entry(here: list[Any], part: str | int, path: Path) -> Any:
    if not isinstance(part, int) or part >= len(here):
        raise _gone(path)
    return here[part]


def _gone(path: Path) -> NoSuchPlace:
    return NoSuchPlace(
        f"{dotted(path)} is no longer there.", remedy="Somebody else removed it. Add it again."
    )


def add(draft: Draft, path: Path, value: Any, at: int | None = None) -> None:
    """Put *value* into the list at a path, at a place or at its end."""
    held = get(draft, path)
    if held is None:
        put(draft, path, [])
        held = get(draft, path)
    held.insert(len(held) if at is None else at, copy.deepcopy(value))


def remove(draft: Draft, path: Path) -> None:
    """Take an entry out of its list, or a part away. Raises NoSuchPlace where there is none."""
    held: Any = get(draft, path[:-1])
    if get(draft, path) is None and not (isinstance(held, dict) and path[-1] in held):
        raise _gone(path)
    del held[path[-1]]


def move(draft: Draft, path: Path, by: int) -> None:
    """Move an entry up (-1) or down (1) its list, as far as the list goes."""
    held, last = get(draft, path[:-1]), path[-1]
    if not isinstance(held, list) or not isinstance(last, int) or last >= len(held):
        raise _gone(path)
    to = min(max(last + by, 0), len(held) - 1)
    held.insert(to, held.pop(last))


@dataclass(frozen=True)
class Conflict:
    """A field that two people changed: where, what stands there now, and what was typed here."""

    path: str
    now: Any
    mine: Any


def merged(
    now: Draft, was: Mapping[str, Any], mine: Mapping[str, Any]
) -> tuple[Draft, tuple[Conflict, ...]]:
    """*now* with the changes that somebody made to fields as they *were*.

    was, mine: values by path. A field that somebody else changed meanwhile to something else keeps
    that, and is a conflict; nothing of either is thrown away. Raises NoSuchPlace as put().
    """
    made = copy.deepcopy(now)
    conflicts = []
    for name, value in mine.items():
        path = path_of(name)
        before, here = was.get(name), get(now, path)
        if same(value, before) or same(value, here):
            continue
        if not same(here, before):
            conflicts.append(Conflict(name, here, value))
            continue
        put(made, path, value)
    return made, tuple(conflicts)


def same(one: Any, other: Any) -> bool:
    """Whether two values of a field are the same; nothing and empty are."""
    return bool(_plain(one) == _plain(other))


def _plain(value: Any) -> Any:
    if value is None or value == "" or value is False:
        return None
    if isinstance(value, Sequence) and not isinstance(value, str) and not value:
        return None
    if isinstance(value, float) and value.is_integer():
        return int(value)
    return value
