"""The acts of a run in words, as a result's page lists them."""

from collections.abc import Sequence
from typing import Any

from kessa_core.methods import Method
from kessa_core.runs import Event as CoreEvent
from kessa_core.runs.order import undone


def acts_of(events: Sequence[CoreEvent], method: Method) -> list[dict[str, Any]]:
    """Every act with its time, drops gathered; what was undone stays, struck through."""
    gone = undone(list(events))
    steps = {step.id: step for step in method.every_step}
    acts: list[dict[str, Any]] = []
    first = events[0].when.date() if events else None
    for event in events:
        said = event.content.said(steps)
        struck = event.id in gone
        last = acts[-1] if acts else None
        if event.act == "drop" and last and last["act"] == "drop" and last["struck"] == struck:
            last["count"] += 1
            last["took"] = round((event.when - last["at"]).total_seconds())
            continue
        acts.append(
            {
                "act": event.act,
                "said": said,
                "at": event.when,
                "later": event.when.date() != first,
                "took": 0,
                "count": 1,
                "struck": struck,
            }
        )
    return acts
