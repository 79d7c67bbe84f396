"""The acts of a run in words, as a result's page lists them."""

from collections.abc import Sequence
from typing import Any

from kessa_core.methods import Method
from kessa_core.methods.parts import Step
from kessa_core.runs import WITHOUT_FIGURE
from kessa_core.runs import Event as CoreEvent
from kessa_core.runs.order import undone

ACTS = {
    "begin": "run begun",
    "drop": "drop added",
    "set": "count typed",
    "end": "it turned and stays",
    "beyond": "no change at the maximum",
    "plain": "sure of the last drop",
    "back-off": "last drop taken back, too strong",
    "doubt": "doubt between two counts",
    "check-drop": "check drop, not counted",
    "next": "went on",
    "again": "blank again",
    "reject": "determination rejected",
    "stop": "run stopped",
    "undo": "took back",
    "note": "note",
    "take-over": "taken over by another device",
    "correct": "reading corrected",
    "stage": "on to the next stage",
}


def acts_of(events: Sequence[CoreEvent], method: Method) -> list[dict[str, Any]]:
    """Every act with its time, drops gathered; what was taken back stays, struck through."""
    gone = undone(list(events))
    titles = {step.id: step for step in method.every_step}
    acts: list[dict[str, Any]] = []
    first = events[0].when.date() if events else None
    for event in events:
        said = _said(event, titles)
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


def _of_step(event: CoreEvent, step: Step | None) -> str:
    if step is None:
        return str(event.data.get("step"))
    if event.act == "read":
        return f"{step.title}: read {str(event.data['raw']).replace('|', ' ')}"
    if event.act == "time":
        return f"{step.title}: over"
    chosen = next((a.label for a in step.answers if a.id == event.data.get("answer")), "")
    return f"{step.title}: {chosen.lower()}" if chosen else step.title


def _said(event: CoreEvent, titles: dict[str, Any]) -> str:
    if event.act == "accept":
        how = "put right" if event.data["how"] == "done" else "tested all the same"
        return f"{event.data['what']} {how.capitalize()}."
    if event.act in ("tick", "answer", "time", "read"):
        return _of_step(event, titles.get(str(event.data.get("step"))))
    if event.act == "dilute":
        return f"diluted {event.data['by']} times"
    if event.act == "correct":
        data = event.data
        return f"{ACTS['correct']}: {data['determination']}, {data['why']}"
    if event.act == "set":
        return f"{ACTS['set']}: {event.data['count']}"
    what = ACTS[event.act]
    if event.act == "stop":
        what = WITHOUT_FIGURE.get(event.data.get("finish", ""), what)
    extra = str(event.data.get("cause") or event.data.get("text") or "")
    return f"{what}: {extra}" if extra else what
