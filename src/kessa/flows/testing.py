"""Beginning, changing and cancelling a test, from the sample to the opened run."""

from datetime import datetime
from decimal import Decimal

from django.db import transaction

from kessa.platform.models import Person
from kessa.runs.models import Run
from kessa.runs.services import open_run, open_runs
from kessa.visits.models import Sample
from kessa.visits.services import add_test, take


@transaction.atomic
def take_and_open(
    sample: Sample,
    person: Person,
    at: datetime,
    zone: str,
    depth_cm: int | None = None,
    water_c: Decimal | None = None,
) -> Run:
    """The sample is in the bottle, and the runs of the tests that were asked of it begin; the first
    of them, the same again where it was sent twice."""
    held = Sample.objects.of(sample.programme_id).select_for_update(of=("self",)).get(pk=sample.pk)
    if held.outcome == Sample.Outcome.TAKEN:
        begun: Run = Run.objects.of(held.programme_id).filter(sample=held).earliest("opened_at")
        return begun
    take(sample, person, at, zone, depth_cm, water_c)
    return open_runs(sample, person)[0]


@transaction.atomic
def add_and_open(sample: Sample, person: Person, method_id: str) -> Run | None:
    """One more test of a sample that was taken; None where it is asked of it already."""
    return open_run(sample, person, method_id) if add_test(sample, person, method_id) else None
