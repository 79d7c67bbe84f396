"""What a result's page shows: the value and everything it rests on."""

from typing import Any

from kessa.bench.models import Event
from kessa.log.models import Result
from kessa.log.setting import limits_of
from kessa.ui.gauges import Drawn, draw
from kessa_core.methods import Method
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
}


def gauge_of(result: Result) -> Drawn | None:
    """The gauge of a result, without its place's normal (a list draws many)."""
    value = result.current.value_of(result.parameter)
    held = limits_of(result.point)
    if value is None:
        return None
    limits = held.of(value.quantity) if held else ()
    return draw(value, limits, result.current.sign or "none", result.current.sign or "no limit")


def evidence(result: Result) -> dict[str, Any]:
    """Everything for the page."""
    current, method = result.current, result.run.version.method
    held = limits_of(result.point)
    limit = next((x for x in held.limits if x.id == current.limit_id), None) if held else None
    return {
        "result": result,
        "e": current,
        "value": current.value_of(result.parameter),
        "gauge": gauge_of(result),
        "method": method,
        "limit": limit,
        "limit_set": held,
        "acts": acts_of(result, method),
        "earlier": list(result.evaluations.exclude(pk=current.pk).order_by("-made_at")),
        "linked": linked(result),
    }


def linked(result: Result) -> list[Result]:
    """The results of the run this one continues, and of the runs that continue it."""
    either = Result.objects.with_evidence().filter(programme_id=result.programme_id)
    before = either.filter(run_id=result.run.continues_id) if result.run.continues_id else []
    return [*before, *either.filter(run__continues_id=result.run_id)]


def acts_of(result: Result, method: Method) -> list[dict[str, Any]]:
    """Every act with its time, drops gathered; what was taken back stays, struck through."""
    events = [event.as_core() for event in Event.objects.of_run(result.run)]
    gone = undone(events)
    titles = {step.id: step for step in (*method.steps.before, *method.steps.each)}
    acts: list[dict[str, Any]] = []
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
                "took": 0,
                "count": 1,
                "struck": struck,
            }
        )
    return acts


def _said(event: CoreEvent, titles: dict[str, Any]) -> str:
    if event.act in ("tick", "answer"):
        step = titles.get(str(event.data.get("step")))
        if step is None:
            return str(event.data.get("step"))
        chosen = next((a.label for a in step.answers if a.id == event.data.get("answer")), "")
        return f"{step.title}: {chosen.lower()}" if chosen else step.title
    if event.act == "set":
        return f"{ACTS['set']}: {event.data['count']}"
    extra = str(event.data.get("cause") or event.data.get("text") or "")
    return f"{ACTS[event.act]}: {extra}" if extra else ACTS[event.act]
