"""Beginning, changing and cancelling a test, from the sample to the opened run."""

from collections.abc import Sequence
from datetime import datetime
from decimal import Decimal
from typing import Any

from django.db import transaction

from kessa.flows.visit_plan import plan_ahead
from kessa.platform.models import Person, Programme
from kessa.runs.models import CANCELLED, Run
from kessa.runs.services import make_ready, open_run, open_runs
from kessa.visits.models import Sample, Visit
from kessa.visits.services import NOTHING, Asked, Prepared, add_test, begin_visit, take


@transaction.atomic
def begin_ready(
    programme: Programme,
    person: Person,
    asked: Sequence[Asked],
    prepared: Prepared = NOTHING,
) -> Visit:
    """A visit whose tests are made ready and planned, so that it can go on without a network."""
    visit = begin_visit(programme, person, asked, prepared)
    samples = Sample.objects.of(programme).filter(visit=visit).order_by("pk")
    plan_ahead(visit, [make_ready(sample, person) for sample in samples])
    return visit


@transaction.atomic
def take_and_open(
    sample: Sample,
    person: Person,
    at: datetime,
    zone: str,
    depth_cm: int | None = None,
    water_c: Decimal | None = None,
    noted: dict[str, Any] | None = None,
) -> Run:
    """The sample is in the bottle, and the runs of the tests that were asked of it begin; the first
    of them, the same again where it was sent twice."""
    held = Sample.objects.of(sample.programme_id).select_for_update(of=("self",)).get(pk=sample.pk)
    if held.outcome == Sample.Outcome.TAKEN:
        runs = Run.objects.of(held.programme_id).filter(sample=held).exclude(finish=CANCELLED)
        begun: Run = runs.earliest("opened_at")
        return begun
    take(sample, person, at, zone, depth_cm, water_c, noted)
    return open_runs(sample, person)[0]


@transaction.atomic
def add_and_open(sample: Sample, person: Person, method_id: str) -> Run | None:
    """One more test of a sample that was taken; None where it is asked of it already."""
    return open_run(sample, person, method_id) if add_test(sample, person, method_id) else None
