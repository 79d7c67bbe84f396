"""A run's file: JSON lines, first the context, then the events. `./kessa run` reads it back."""

import json
from collections.abc import Iterable, Mapping
from typing import Any

from kessa_core.errors import BadEvent
from kessa_core.methods import Method
from kessa_core.runs.events import Event, read_event
from kessa_core.runs.order import ordered

KIND = "kessa-run/1"
MAX_LINE = 20_000


def write(method: Method, events: Iterable[Event], context: Mapping[str, Any]) -> str:
    """The file's text; *context* may hold lot, limits, continues, point and sample."""
    named: dict[str, Any] = {"id": method.id, "version": method.version, "hash": method.hash}
    if method.local_settings:
        named["local_settings"] = method.local_settings.model_dump(mode="json")
    head = {"kind": KIND, "method": named, **context}
    lines = [head, *(event.as_json() for event in ordered(events))]
    return "".join(json.dumps(line, ensure_ascii=False) + "\n" for line in lines)


Run = tuple[dict[str, Any], list[Event]]
"""Context (empty when the file has none) and events."""


def read(text: str) -> list[Run]:
    """The runs in a file, in order; a context line or another run's event begins the next.

    Raises BadEvent naming the line that cannot be read.
    """
    runs: list[Run] = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        raw = _parsed(line, number)
        if isinstance(raw, dict) and raw.get("kind") == KIND:
            runs.append((raw, []))
            continue
        try:
            event = read_event(raw)
        except BadEvent as error:
            raise BadEvent(f"Line {number}: {error}", field=error.field) from None
        if not runs or (runs[-1][1] and runs[-1][1][0].run != event.run):
            runs.append(({}, []))
        runs[-1][1].append(event)
    return runs


def _parsed(line: str, number: int) -> Any:
    if len(line) > MAX_LINE:
        raise BadEvent(f"Line {number} is too long.")
    try:
        return json.loads(line)
    except (json.JSONDecodeError, RecursionError):
        raise BadEvent(f"Line {number} is not JSON.") from None
