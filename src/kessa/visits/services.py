"""What happens on a visit: each act is an event, and the sample follows from its events."""

from datetime import datetime
from decimal import Decimal
from typing import Any

from django.db import transaction

from kessa.places.models import Point
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.hashes import seal_of
from kessa.platform.models import Person, Programme
from kessa.visits.models import Sample, TestAsked, Visit, VisitEvent
from kessa.visits.projection import CORRECTABLE, apply, as_plain, states_after, store

Kind = VisitEvent.Kind


@transaction.atomic
def begin(programme: Programme, person: Person, point: Point, *method_ids: str) -> Sample:
    """One or several tests at a point; the visit is made behind them."""
    method_id, *others = method_ids
    visit = Visit.objects.create(programme=programme, made_by=person, begun_at=clock.now())
    sample = Sample.objects.create(programme=programme, visit=visit, point=point)
    begun = _happen(sample, person, Kind.BEGUN, point=point.pk, method=method_id)
    seals = [seal_of([visit]), *begun]
    record(programme, person, "sample.begun", sample, point=point.pk, method=method_id, seals=seals)
    for other in others:
        add_test(sample, person, other)
    return sample


@transaction.atomic
def add_test(sample: Sample, person: Person, method_id: str) -> bool:
    """One more test of a sample. False where it is asked of it already."""
    tests = TestAsked.objects.of(sample.programme_id).filter(sample=sample, method_id=method_id)
    if tests.exclude(state=TestAsked.State.CANCELLED).exists():
        return False
    seals = _happen(sample, person, Kind.TEST_ADDED, method=method_id)
    record(sample.programme, person, "sample.test-added", sample, method=method_id, seals=seals)
    return True


@transaction.atomic
def decide_to_go(sample: Sample, person: Person) -> None:
    """The person has looked and says it is safe."""
    seals = _happen(sample, person, Kind.SAFE)
    record(sample.programme, person, "sample.safe", sample, seals=seals)


@transaction.atomic
def do_not_sample(sample: Sample, person: Person, reason: str) -> None:
    """Not sampled, and why: a kept outcome."""
    seals = _happen(sample, person, Kind.NOT_TAKEN, reason=reason)
    record(sample.programme, person, "sample.not-taken", sample, reason=reason, seals=seals)


@transaction.atomic
def note_context(sample: Sample, person: Person, noted: dict[str, Any]) -> None:
    """Weather, temperatures and what is seen, before touching the water."""
    seals = _happen(sample, person, Kind.CONDITIONS, **{n: as_plain(v) for n, v in noted.items()})
    record(sample.programme, person, "sample.context", sample, seals=seals, **context_of(sample))


@transaction.atomic
def change_test(sample: Sample, person: Person, method_id: str) -> None:
    """Another test is wanted of a sample that nobody has taken yet."""
    was = sample.method_id
    if was == method_id:
        return
    seals = _happen(sample, person, Kind.TEST_CHANGED, was=was, method=method_id)
    record(
        sample.programme,
        person,
        "sample.test-changed",
        sample,
        was=was,
        method=method_id,
        seals=seals,
    )


@transaction.atomic
def cancel(sample: Sample, person: Person) -> None:
    """The test was begun by mistake: nothing was taken, and it is no outcome of a visit."""
    seals = _happen(sample, person, Kind.CANCELLED)
    record(sample.programme, person, "sample.cancelled", sample, seals=seals)


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
    data: dict[str, Any] = {
        "taken_at": at.isoformat(),
        "zone": zone,
        "depth_cm": depth_cm,
    }
    if water_c is not None:
        data["water_c"] = str(water_c)
    seals = _happen(sample, person, Kind.TAKEN, **data)
    record(sample.programme, person, "sample.taken", sample, seals=seals, **context_of(sample))


@transaction.atomic
def correct(sample: Sample, person: Person, changes: dict[str, Any], why: str) -> bool:
    """Correct a sample or its field conditions; what stood before is kept. False when nothing
    changes."""
    before = _every(sample)
    after = before | {name: as_plain(value) for name, value in changes.items()}
    changed = [name for name in CORRECTABLE if before[name] != after[name]]
    if not changed:
        return False
    was, now = ({name: side[name] for name in changed} for side in (before, after))
    seals = _happen(sample, person, Kind.CORRECTED, why=why, before=was, after=now)
    record(
        sample.programme,
        person,
        "sample.corrected",
        sample,
        why=why,
        before=was,
        after=now,
        seals=seals,
    )
    return True


def set_test_state(
    sample: Sample, person: Person | None, method_id: str, state: TestAsked.State
) -> list[dict[str, Any]]:
    """A test that was asked for is begun, done or cancelled, as the run of it says; what the audit
    seals of it."""
    asked = TestAsked.objects.of(sample.programme_id).filter(sample=sample, method_id=method_id)
    if asked.filter(state=state).exists():
        return []
    return _happen(sample, person, Kind.TEST_STATE, method=method_id, state=str(state))


def corrections_of(sample: Sample) -> list[VisitEvent]:
    """The corrections of a sample, the newest first."""
    corrected = sample.events.filter(kind=Kind.CORRECTED).select_related("by")
    return list(corrected.order_by("-pk"))


def context_of(sample: Sample) -> dict[str, Any]:
    """The sample and its field conditions as plain values, for the record; without a depth where
    nobody noted one."""
    held = _every(sample)
    return {name: held[name] for name in held if name != "depth_cm" or held[name] is not None}


def _happen(
    sample: Sample, by: Person | None, kind: VisitEvent.Kind, **data: Any
) -> list[dict[str, Any]]:
    """Keep the event, and let sample and tests follow from it; what the audit seals of it."""
    event = VisitEvent.objects.create(
        programme_id=sample.programme_id,
        visit_id=sample.visit_id,
        sample=sample,
        kind=kind,
        by=by,
        data=data,
    )
    apply(sample, event)
    store(sample)
    for method_id, state in states_after(event).items():
        TestAsked.objects.of(sample.programme_id).update_or_create(
            programme_id=sample.programme_id,
            sample=sample,
            method_id=method_id,
            defaults={"state": state},
        )
    return [seal_of([event])]


def _every(sample: Sample) -> dict[str, Any]:
    return {name: as_plain(getattr(sample, name)) for name in CORRECTABLE}
