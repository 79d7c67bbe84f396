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
    head = {
        "kind": KIND,
        "method": {"id": method.id, "version": method.version, "hash": method.hash},
        **context,
    }
    lines = [head, *(event.as_json() for event in ordered(events))]
    return "".join(json.dumps(line, ensure_ascii=False) + "\n" for line in lines)


def read(text: str) -> tuple[dict[str, Any], list[Event]]:
    """Context (empty when the file has none) and events.

    Raises BadEvent naming the line that cannot be read.
    """
    context: dict[str, Any] = {}
    events = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        try:
            if len(line) > MAX_LINE:
                raise BadEvent("This line is too long.")
            raw = json.loads(line)
            if number == 1 and isinstance(raw, dict) and raw.get("kind") == KIND:
                context = raw
            else:
                events.append(read_event(raw))
        except (json.JSONDecodeError, RecursionError):
            raise BadEvent(f"Line {number} is not JSON.") from None
        except BadEvent as error:
            raise BadEvent(f"Line {number}: {error}", field=error.field) from None
    return context, events
