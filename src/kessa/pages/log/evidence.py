"""What a result's page shows: the value, everything it rests on, and what became of it."""

from collections.abc import Mapping, Sequence
from functools import partial
from itertools import pairwise
from typing import Any

from django.urls import reverse
from django.utils import timezone
from django.utils.http import urlencode

from kessa.flows.correcting import may_correct
from kessa.flows.following import Following, following
from kessa.flows.reviewing import analysts
from kessa.pages.log.photographs import photographs_of
from kessa.pages.log.words import was
from kessa.pages.points.latest import draw_judged
from kessa.places.facts import system_inputs
from kessa.places.models import Point
from kessa.places.services import sets_at
from kessa.platform.models import Person
from kessa.platform.queries import beside_the_names
from kessa.results.models import Evaluation, Result
from kessa.runs.models import Event, Run
from kessa.ui.gauges import GaugeView
from kessa.verdicts.measured import for_sample
from kessa.verdicts.services import current_verdicts, sentences_of, verdict_by
from kessa.visits.models import Sample, VisitEvent
from kessa.visits.services import corrections_of
from kessa_core.calculations.filling import filled
from kessa_core.describing.acts import acts_of
from kessa_core.judging import LimitSet
from kessa_core.judging import Verdict as CoreVerdict
from kessa_core.methods import Method
from kessa_core.methods.stage import Stage


def gauge_of(result: Result) -> GaugeView | None:
    """The gauge of a result as it was judged, without the usual (a list draws many). The result
    has its verdicts attached."""
    value = result.evaluation.value if result.current_id else None
    return draw_judged(value, result.verdicts) if value else None


def evidence(result: Result, person: Person, role: str) -> dict[str, Any]:
    """Everything for the page, as *person* in this *role* sees it."""
    made = evaluations_of(result)
    current, method, run = result.evaluation, result.run.method, result.run
    run.sample.point = result.point
    then, now = sets_at(result.point, [run.sample.sampled_at, timezone.now()])
    stage = stage_of(result)
    sent = Event.objects.of_run(run).select_related("person")
    rows = list(sent.defer(*beside_the_names("person")))
    corrections = corrections_of(run.sample)
    own = analysts(run, (row.person_id for row in rows), corrections)
    leads = next(iter(current_verdicts(result)), None)
    return {
        "result": result,
        "e": current,
        "value": current.value,
        "verdict": leads,
        "limit": leads.limit if leads else None,
        "sentences": sentences_of(result),
        "today": verdict_today(result, now),
        "gauge": gauge_of(result),
        "method": method,
        "stage": stage,
        "read_title": stage.reader().read_title if stage else "Read",
        "following": following(run.sample, then, result.parameter),
        "acts": partial(_acts, rows, method),
        "determinations": determinations_of(result, {row.pk: row.person for row in rows}),
        "photographs": photographs_of(result, rows),
        "earlier": earlier(made),
        "reviews": list(result.reviews.select_related("by").defer(*beside_the_names("by"))),
        "sample_corrections": in_words(run.sample, corrections),
        "own": own,
    }


def _acts(rows: Sequence[Event], method: Method) -> list[dict[str, Any]]:
    return acts_of([row.as_core() for row in rows], method)


def whole_evidence(result: Result, person: Person, role: str) -> dict[str, Any]:
    """What a result's own page shows beside its evidence: what it is linked with, what it can be
    worked on with, and what this person may do."""
    shown = evidence(result, person, role)
    return shown | {
        "linked": linked(result),
        "calculations": calculations_with(result, shown["following"]),
        "may_correct": may_correct(result, person, role, shown["own"]),
        "may_answer": result.waits_for == "analyst" and person.pk in shown["own"],
    }


def calculations_with(result: Result, follows: Following) -> list[tuple[str, str]]:
    """What this result can be worked on with: what each calculation is for, and its address with
    everything filled in that was measured of the sample."""
    value = result.evaluation.value
    slug = result.programme.slug
    system = system_inputs(result.point.water.facts)
    return [
        (one.about, f"{reverse('calculation', args=[slug, one.name])}?{urlencode(one.inputs)}")
        for one in (filled(value, follows.measured, system) if value else ())
    ]


def stage_of(result: Result) -> Stage | None:
    """The stage a result comes from; None for a difference of two."""
    return result.run.method.stage(result.stage_of(result.run))


def evaluations_of(result: Result) -> list[Evaluation]:
    """Every evaluation of a result, the newest first, which gets its current one of them."""
    by = result.evaluations.select_related("made_by").defer(*beside_the_names("made_by"))
    made = list(by)
    result.current = next((one for one in made if one.pk == result.current_id), None)
    return made


def earlier(made: Sequence[Evaluation]) -> list[dict[str, Any]]:
    """Of evaluations, the newest first, those that were struck, each with what struck it."""
    return [
        {"e": old, "value": old.value, "by": newer.made_by,
         "at": newer.made_at, "why": newer.why}
        for newer, old in pairwise(made)
    ]  # fmt: skip


def determinations_of(result: Result, people: Mapping[str, Person]) -> list[dict[str, Any]]:
    """The measurements as the current evaluation holds them, each with its status in words; a
    corrected one says by whom. *people*: who sent each event."""
    stage = stage_of(result)
    return [
        {
            **d,
            "status": status_of(d, stage),
            "was": [{**was, "by": people.get(was["event"])} for was in d.get("was", ())],
        }
        for d in result.evaluation.determinations
    ]


def status_of(determination: Mapping[str, Any], stage: Stage | None) -> str:
    """What became of a measurement, in words."""
    if determination["rejected"]:
        return f"discarded: {determination['rejected']}"
    if determination.get("awaiting"):
        return "photographed, not read yet"
    if determination["role"] == "blank" and stage and stage.blank:
        subtracted = "subtracted" if stage.blank.subtract else "not subtracted"
        return f"passes at up to {stage.blank.passes_at_most}, {subtracted}"
    if determination["role"] in ("standard", "reference", "spike"):
        return "quality check"
    if determination["used"]:
        return "in the reported mean"
    return "not in the mean, used for the 95 % range"


def verdict_today(result: Result, held: LimitSet | None) -> CoreVerdict | None:
    """The verdict by the limits that apply now, those of *held*, where it is not the recorded
    one."""
    value = result.evaluation.value
    if value is None or not result.verdicts:
        return None
    limits = held.of_all([value.quantity]) if held else ()
    now = verdict_by(for_sample(limits, result.run.sample), value)
    recorded = result.verdicts[0].as_core
    same = (now.limit, now.sign) == (recorded.limit, recorded.sign)
    return None if same else now


def in_words(sample: Sample, made: Sequence[VisitEvent]) -> list[tuple[VisitEvent, list[str]]]:
    """Each correction of a sample with what stood before, in words."""
    ids = {c.before["point_id"] for c in made if "point_id" in c.before}
    every = Point.objects.of(sample.programme_id)
    points = {pk: str(point) for pk, point in every.in_bulk(ids).items()} if ids else {}
    return [(c, [was(name, old, points) for name, old in c.before.items()]) for c in made]


def linked(result: Result) -> list[Result]:
    """The results of the run this one continues, and of the runs that continue it."""
    runs = Run.objects.of(result.programme_id).filter(continues=result.run_id)
    beside = [*runs.order_by().values_list("pk", flat=True), result.run.continues_id]
    if beside == [None]:
        return []
    results = Result.objects.of(result.programme_id).select_related("current", "run__version")
    return list(results.filter(run__in=[run for run in beside if run]))
