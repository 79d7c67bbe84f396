"""The acts of a run in words, as a result's page lists them."""

from collections.abc import Mapping, Sequence
from typing import Any

from kessa_core.methods import Method
from kessa_core.methods.steps import Step
from kessa_core.readings.scale import InvalidReading, Scale
from kessa_core.runs import Event as CoreEvent
from kessa_core.runs.act_models import AnyAct, Read
from kessa_core.runs.order import undone


def acts_of(events: Sequence[CoreEvent], method: Method) -> list[dict[str, Any]]:
    """Every act with its time, drops gathered; what was undone stays, struck through."""
    gone = undone(list(events))
    steps = {step.id: step for step in method.every_step}
    scales = _scales(method)
    acts: list[dict[str, Any]] = []
    first = events[0].when.date() if events else None
    for event in events:
        said = _as_read(event.content, steps, scales) or event.content.said(steps)
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


def _scales(method: Method) -> dict[str, Scale]:
    """The scale of every step at which something is read."""
    return {
        step.id: stage.reader().scale(step.slot)
        for stage in method.stages
        for step in (*stage.prepare, *stage.steps)
        if step.kind == "read" and step.slot
    }


def _as_read(act: AnyAct, steps: Mapping[str, Step], scales: Mapping[str, Scale]) -> str:
    """A reading as people say it, where the page sent a place on the scale; else nothing."""
    if not isinstance(act, Read) or act.step not in scales:
        return ""
    scale = scales[act.step]
    try:
        place, kind = scale.parse(act.raw, sure=True)
    except InvalidReading:
        return ""
    said = f"{scale.say(place)} {scale.unit}".strip()
    return f"{steps[act.step].title}: read {said}" if kind == "plain" else ""
