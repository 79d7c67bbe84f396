"""What follows when a device sends what was done on a visit: kept once, its tests evaluated."""

from collections.abc import Mapping
from datetime import datetime
from decimal import Decimal
from typing import Any

from django.db import transaction

from kessa.flows.evaluating import evaluate
from kessa.flows.receiving import Sender
from kessa.platform.models import Person
from kessa.runs.models import Run
from kessa.runs.services import open_runs
from kessa.visits import services as visits
from kessa.visits.models import Sample, Visit, VisitEvent
from kessa_core.runs.visit_acts import VisitAct

UNKNOWN = "The server does not know this visit."


def visit_of(sender: Sender, act: VisitAct) -> Visit | None:
    """The visit that an act belongs to, where the sender may append to it."""
    if sender.visit_id not in (None, act.visit):
        return None
    found: Visit | None = Visit.objects.of(sender.programme).filter(pk=act.visit).first()
    return found


def sample_of(sender: Sender, act: VisitAct) -> Sample | None:
    """The sample that an act is about, held until the transaction ends."""
    samples = Sample.objects.of(sender.programme).filter(visit=act.visit, pk=act.sample)
    found: Sample | None = samples.select_for_update(of=("self",)).first()
    return found


def was_kept(act: VisitAct) -> bool | None:
    """Whether this act was kept before; None where its id belongs to another visit."""
    found = VisitEvent.objects.filter(sent_id=act.id).values_list("visit_id", flat=True).first()
    if found is None:
        return False
    return True if found == act.visit else None


@transaction.atomic
def note_sent(sample: Sample, person: Person, noted: dict[str, Any], act: VisitAct) -> None:
    """Field conditions from a device; what another one tested of the sample meanwhile is evaluated
    again, since a limit may depend on the water's temperature."""
    visits.note_context(sample, person, noted, act)
    if sample.outcome == Sample.Outcome.TAKEN:
        evaluate_sample(sample, person)


@transaction.atomic
def take_sent(
    sample: Sample, person: Person, act: VisitAct, zone: str, taken: Mapping[str, Any]
) -> None:
    """A sample that was taken without a network; the tests that were done meanwhile are evaluated.
    taken: at, depth_cm, water_c, noted."""
    at: datetime = taken["at"]
    depth: int | None = taken.get("depth_cm")
    water: Decimal | None = taken.get("water_c")
    visits.take(sample, person, at, zone, depth, water, taken.get("noted"), act)
    if sample.outcome == Sample.Outcome.TAKEN:
        open_runs(sample, person)
        evaluate_sample(sample, person)


@transaction.atomic
def decide_between(beside: VisitEvent, person: Person, keep_second: bool, why: str) -> None:
    """Of two records that contradict each other one holds; what rests on it is evaluated again."""
    standing = visits.stands_against(beside)
    chosen = beside if keep_second or standing is None else standing
    visits.decide(beside, person, chosen, why)
    sample = Sample.objects.of(beside.programme_id).get(pk=beside.sample_id)
    if sample.outcome == Sample.Outcome.TAKEN:
        open_runs(sample, person)
        evaluate_sample(sample, person, why)


def evaluate_sample(sample: Sample, person: Person, why: str = "") -> None:
    """Evaluate every test of a sample in which something was done."""
    runs = Run.objects.of(sample.programme_id).filter(sample=sample)
    for run in runs.filter(events__isnull=False).distinct():
        evaluate(run, by=person, why=why)
