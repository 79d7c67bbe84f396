"""What changes a visit: beginning it, deciding to go, noting the context, taking the sample."""

from datetime import datetime
from typing import Any

from django.db import transaction
from django.utils import timezone

from kessa.accounts.models import Person, Programme
from kessa.visits.models import Sample, Visit
from kessa.waters.models import Point


@transaction.atomic
def begin(programme: Programme, person: Person, point: Point, method_id: str) -> Sample:
    """A single test at a point; the visit is made behind it."""
    visit = Visit.objects.create(programme=programme, made_by=person, begun_at=timezone.now())
    return Sample.objects.create(programme=programme, visit=visit, point=point, method_id=method_id)


def decide_to_go(sample: Sample) -> None:
    """The person has looked and says it is safe."""
    sample.safe = True
    sample.save(update_fields=["safe"])


def do_not_sample(sample: Sample, person: Person, reason: str) -> None:
    """Not sampled, and why: a kept outcome."""
    sample.outcome = Sample.Outcome.NOT_TAKEN
    sample.reason = reason
    sample.taken_at = timezone.now()
    sample.taken_by = person
    sample.save(update_fields=["outcome", "reason", "taken_at", "taken_by"])


def note_context(sample: Sample, noted: dict[str, Any]) -> None:
    """Weather, temperatures and what is seen, before touching the water."""
    for name, value in noted.items():
        setattr(sample, name, value)
    sample.context_at = timezone.now()
    sample.save(update_fields=[*noted, "context_at"])


def take(sample: Sample, person: Person, at: datetime, zone: str) -> None:
    """The sample is in the bottle."""
    sample.outcome = Sample.Outcome.TAKEN
    sample.taken_at = at
    sample.zone = zone
    sample.taken_by = person
    sample.save(update_fields=["outcome", "taken_at", "zone", "taken_by"])
