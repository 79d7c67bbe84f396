"""Beginning, changing and cancelling a test, from the sample to the opened run."""

from datetime import datetime
from decimal import Decimal

from django.db import transaction

from kessa.platform.models import Person
from kessa.runs.models import Run
from kessa.runs.services import open_run
from kessa.visits.models import Sample
from kessa.visits.services import take


@transaction.atomic
def take_and_open(
    sample: Sample,
    person: Person,
    at: datetime,
    zone: str,
    depth_cm: int | None = None,
    water_c: Decimal | None = None,
) -> Run:
    """The sample is in the bottle, and the run of the test that was asked of it begins; the same
    run again where it was sent twice."""
    held = Sample.objects.of(sample.programme_id).select_for_update(of=("self",)).get(pk=sample.pk)
    if held.outcome == Sample.Outcome.TAKEN:
        begun: Run = Run.objects.of(held.programme_id).filter(sample=held).earliest("opened_at")
        return begun
    take(sample, person, at, zone, depth_cm, water_c)
    return open_run(sample, person)
