"""What a result's page shows: the value, everything it rests on, and what became of it."""

from itertools import pairwise
from typing import Any

from kessa.accounts.models import Person
from kessa.bench.models import Event
from kessa.log.correct import may_correct
from kessa.log.models import Result
from kessa.log.review import analysts
from kessa.log.services import state_of
from kessa.log.setting import limits_of
from kessa.log.words import was
from kessa.ui.gauges import Drawn, draw
from kessa.visits.models import Sample, SampleCorrection
from kessa.waters.models import Point
from kessa_core.methods import Method
from kessa_core.methods.parts import Step
from kessa_core.methods.stage import Stage
from kessa_core.quality.budget import Budget, budget
from kessa_core.runs import WITHOUT_FIGURE
from kessa_core.runs import Event as CoreEvent
from kessa_core.runs.conclude import sized_for
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


def gauge_of(result: Result) -> Drawn | None:
    """The gauge of a result, without its place's normal (a list draws many)."""
    value = result.current.value_of(result.parameter)
    held = limits_of(result.point)
    if value is None:
        return None
    limits = held.of(value.quantity) if held else ()
    return draw(value, limits, result.current.sign or "none", result.current.sign or "no limit")


def evidence(result: Result, person: Person, role: str) -> dict[str, Any]:
    """Everything for the page, as *person* in this *role* sees it."""
    current, method = result.current, result.run.version.method
    stage = stage_of(result)
    own = analysts(result)
    held = limits_of(result.point)
    limit = next((x for x in held.limits if x.id == current.limit_id), None) if held else None
    return {
        "result": result,
        "e": current,
        "value": current.value_of(result.parameter),
        "gauge": gauge_of(result),
        "method": method,
        "stage": stage,
        "counts": stage.reader().counts if stage else "",
        "limit": limit,
        "limit_set": held,
        "acts": acts_of(result, method),
        "determinations": determinations_of(result),
        "earlier": earlier(result),
        "reviews": list(result.reviews.select_related("by")),
        "sample_corrections": corrections_of(result.run.sample),
        "own": own,
        "may_correct": may_correct(result, person, role, own),
        "may_answer": result.waits_for == "analyst" and person.pk in own,
        "linked": linked(result),
    }


def stage_of(result: Result) -> Stage | None:
    """The stage a result comes from; None for a difference of two."""
    return result.run.version.method.stage(result.stage_of(result.run))


def budget_of(result: Result) -> Budget | None:
    """Where the width of the interval comes from; None where there is no two-sided one."""
    stage = stage_of(result)
    if result.current.finish != "done" or stage is None or stage.reference:
        return None
    state = state_of(result.run)
    held = next(one for one in state.stages if one.id == stage.id)
    seen = [d.seen for d in held.samples if d.seen]
    blanks = [d.seen for d in held.blanks if d.seen]
    reader = sized_for(stage, held, result.run.core_lots)
    found = budget(reader, seen, blanks) if not held.extra else None
    return found.scaled(held.base) if found else None


def earlier(result: Result) -> list[dict[str, Any]]:
    """The evaluations that were struck, the newest first, each with what struck it."""
    made = list(result.evaluations.select_related("made_by"))
    return [
        {"e": old, "value": old.value_of(result.parameter), "by": newer.made_by,
         "at": newer.made_at, "why": newer.why}
        for newer, old in pairwise(made)
    ]  # fmt: skip


def struck_of(result: Result) -> list[str]:
    """The figures that were struck, oldest first, for a row of the log (needs with_history)."""
    values = [e.value_of(result.parameter) for e in result.evaluations.all()[1:]]
    return [value.figure if value else "no result" for value in reversed(values)]


def determinations_of(result: Result) -> list[dict[str, Any]]:
    """The determinations as the current evaluation holds them; a corrected one says by whom."""
    listed = result.current.determinations
    ids = [was["event"] for d in listed for was in d.get("was", ())]
    events = Event.objects.filter(pk__in=ids).select_related("person")
    names = {event.pk: event.person for event in events}
    return [
        {**d, "was": [{**was, "by": names.get(was["event"])} for was in d.get("was", ())]}
        for d in listed
    ]


def corrections_of(sample: Sample) -> list[tuple[SampleCorrection, list[str]]]:
    """Each correction of a sample with what stood before, in words."""
    made = list(sample.corrections.select_related("by"))
    ids = {c.before["point_id"] for c in made if "point_id" in c.before}
    points = {p.pk: str(p) for p in Point.objects.of(sample.programme_id).filter(pk__in=ids)}
    return [(c, [was(name, old, points) for name, old in c.before.items()]) for c in made]


def linked(result: Result) -> list[Result]:
    """The results of the run this one continues, and of the runs that continue it."""
    either = Result.objects.with_evidence().filter(programme_id=result.programme_id)
    before = either.filter(run_id=result.run.continues_id) if result.run.continues_id else []
    return [*before, *either.filter(run__continues_id=result.run_id)]


def acts_of(result: Result, method: Method) -> list[dict[str, Any]]:
    """Every act with its time, drops gathered; what was taken back stays, struck through."""
    events = [event.as_core() for event in Event.objects.of_run(result.run)]
    gone = undone(events)
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
