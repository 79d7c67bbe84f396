"""What changes a visit: beginning it, deciding to go, noting the context, taking the sample."""

from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils import timezone

from kessa.accounts.models import Person, Programme
from kessa.records.services import record
from kessa.visits.models import Sample, SampleCorrection, Visit
from kessa.waters.models import Point

CONTEXT = ("weather_now", "weather_before", "water_c", "air_c", "seen", "note")
CORRECTABLE = ("point_id", "taken_at", *CONTEXT, "depth_cm")


@transaction.atomic
def begin(programme: Programme, person: Person, point: Point, method_id: str) -> Sample:
    """A single test at a point; the visit is made behind it."""
    visit = Visit.objects.create(programme=programme, made_by=person, begun_at=timezone.now())
    sample = Sample.objects.create(
        programme=programme, visit=visit, point=point, method_id=method_id
    )
    record(programme, person, "sample.begun", sample, point=point.pk, method=method_id)
    return sample


@transaction.atomic
def decide_to_go(sample: Sample, person: Person) -> None:
    """The person has looked and says it is safe."""
    sample.safe = True
    sample.save(update_fields=["safe"])
    record(sample.programme, person, "sample.safe", sample)


@transaction.atomic
def do_not_sample(sample: Sample, person: Person, reason: str) -> None:
    """Not sampled, and why: a kept outcome."""
    sample.outcome = Sample.Outcome.NOT_TAKEN
    sample.reason = reason
    sample.taken_at = timezone.now()
    sample.taken_by = person
    sample.save(update_fields=["outcome", "reason", "taken_at", "taken_by"])
    record(sample.programme, person, "sample.not-taken", sample, reason=reason)


@transaction.atomic
def note_context(sample: Sample, person: Person, noted: dict[str, Any]) -> None:
    """Weather, temperatures and what is seen, before touching the water."""
    for name, value in noted.items():
        setattr(sample, name, value)
    sample.context_at = timezone.now()
    sample.save(update_fields=[*noted, "context_at"])
    record(sample.programme, person, "sample.context", sample, **standing(sample))


@transaction.atomic
def change_test(sample: Sample, person: Person, method_id: str) -> None:
    """Another test is wanted of a sample that nobody has taken yet."""
    was, sample.method_id = sample.method_id, method_id
    sample.save(update_fields=["method_id"])
    record(sample.programme, person, "sample.test-changed", sample, was=was, method=method_id)


@transaction.atomic
def cancel(sample: Sample, person: Person) -> None:
    """The test was begun by mistake: nothing was taken, and it is no outcome of a visit."""
    sample.outcome = Sample.Outcome.CANCELLED
    sample.save(update_fields=["outcome"])
    record(sample.programme, person, "sample.cancelled", sample)


@transaction.atomic
def take(
    sample: Sample,
    person: Person,
    at: datetime,
    zone: str,
    depth_cm: int | None = None,
    water_c: Decimal | None = None,
) -> None:
    """The sample is in the bottle; *depth_cm*: how far below the surface, *water_c*: the water's
    temperature, where they were noted."""
    sample.outcome = Sample.Outcome.TAKEN
    sample.taken_at = at
    sample.zone = zone
    sample.taken_by = person
    sample.depth_cm = depth_cm
    noted = ["outcome", "taken_at", "zone", "taken_by", "depth_cm"]
    if water_c is not None:
        sample.water_c = water_c
        noted.append("water_c")
    sample.save(update_fields=noted)
    record(sample.programme, person, "sample.taken", sample, **standing(sample))


@transaction.atomic
def correct(sample: Sample, person: Person, changes: dict[str, Any], why: str) -> bool:
    """Put a sample or its context right; what stood before is kept. False when nothing changes."""
    before = _every(sample)
    for name, value in changes.items():
        setattr(sample, name, value)
    after = _every(sample)
    changed = [name for name in CORRECTABLE if before[name] != after[name]]
    if not changed:
        return False
    sample.save(update_fields=[name.removesuffix("_id") for name in changed])
    was, now = ({name: side[name] for name in changed} for side in (before, after))
    SampleCorrection.objects.create(
        programme_id=sample.programme_id,
        sample=sample,
        by=person,
        at=timezone.now(),
        why=why,
        before=was,
        after=now,
    )
    record(sample.programme, person, "sample.corrected", sample, why=why, before=was, after=now)
    return True


def standing(sample: Sample) -> dict[str, Any]:
    """The sample and its context as plain values, for the record.

    A depth that nobody noted is left out: results from before depths were noted stay as they are.
    """
    held = _every(sample)
    return {name: held[name] for name in held if name != "depth_cm" or held[name] is not None}


def _every(sample: Sample) -> dict[str, Any]:
    return {name: _plain(getattr(sample, name)) for name in CORRECTABLE}


def _plain(value: Any) -> Any:
    if isinstance(value, datetime):
        return value.astimezone(UTC).isoformat(timespec="seconds")
    if value is None or isinstance(value, list | int):
        return value
    return str(value)
