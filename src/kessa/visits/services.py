"""What happens on a visit: each act is an event, and the sample follows from its events."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from django.db import transaction

from kessa.library.models import KitCase
from kessa.places.models import Point
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.hashes import seal_of
from kessa.platform.models import Person, Programme
from kessa.platform.queries import beside_the_names
from kessa.visits.models import Sample, TestAsked, TestSet, Visit, VisitEvent
from kessa.visits.projection import CORRECTABLE, apply, as_plain, states_after, store
from kessa_core.runs.visit_acts import VisitAct

Kind = VisitEvent.Kind


@dataclass(frozen=True)
class Asked:
    """The tests that are asked at a point, by their methods."""

    point: Point
    methods: tuple[str, ...]


@dataclass(frozen=True)
class Prepared:
    """What was decided before a visit: the set and which of its days it is done for; who goes,
    where that is not who makes it, and who goes along; the case that is taken."""

    of_set: TestSet | None = None
    due_on: date | None = None
    lead: Person | None = None
    companion: Person | None = None
    case: KitCase | None = None


NOTHING = Prepared()


@transaction.atomic
def begin(programme: Programme, person: Person, point: Point, *method_ids: str) -> Sample:
    """One or several tests at a point; the visit is made behind them."""
    visit = begin_visit(programme, person, [Asked(point, method_ids)])
    sample: Sample = Sample.objects.of(programme).get(visit=visit)
    return sample


@transaction.atomic
def begin_visit(
    programme: Programme,
    person: Person,
    asked: Sequence[Asked],
    prepared: Prepared = NOTHING,
    begun_at: datetime | None = None,
) -> Visit:
    """A visit with a sample of each of these points, none taken yet. begun_at: where it was before
    now, from paper."""
    visit = Visit.objects.create(
        programme=programme,
        made_by=person,
        begun_at=begun_at or clock.now(),
        set=prepared.of_set,
        due_on=prepared.due_on,
        lead=prepared.lead,
        companion=prepared.companion,
        case=prepared.case,
    )
    begun = [seal_of([visit])]
    for one in asked:
        _ask(visit, person, one, begun)
        begun = []
    return visit


def _ask(visit: Visit, person: Person, asked: Asked, seals: list[dict[str, Any]]) -> Sample:
    first, *others = asked.methods
    programme, point = visit.programme, asked.point
    sample = Sample.objects.create(programme=programme, visit=visit, point=point)
    begun = [*seals, *_happen(sample, person, Kind.BEGUN, point=point.pk, method=first)]
    record(programme, person, "sample.begun", sample, point=point.pk, method=first, seals=begun)
    for other in others:
        add_test(sample, person, other)
    return sample


@transaction.atomic
def end(
    visit: Visit,
    person: Person,
    note: str = "",
    made: VisitAct | None = None,
    thermometer_home: bool | None = None,
) -> bool:
    """The visit is over and handed over. False where it was already. thermometer_home: whether the
    air thermometer comes home, where one hung outdoors."""
    if VisitEvent.objects.of(visit.programme_id).filter(visit=visit, kind=Kind.ENDED).exists():
        return False
    event = VisitEvent.objects.create(
        programme_id=visit.programme_id, visit=visit, kind=Kind.ENDED, by=person,
        data={"note": note, "thermometer_home": thermometer_home}, **_as_made(made),
    )  # fmt: skip
    record(visit.programme, person, "visit.ended", visit, note=note, seals=[seal_of([event])])
    return True


@transaction.atomic
def note_photograph(
    visit: Visit, person: Person, sample: Sample | None, photo: str, what: str, made: VisitAct
) -> None:
    """What was seen, as a picture: its key, and what it shows in words."""
    event = VisitEvent.objects.create(
        programme_id=visit.programme_id, visit=visit, sample=sample, kind=Kind.PHOTOGRAPHED,
        by=person, data={"photo": photo, "what": what}, **_as_made(made),
    )  # fmt: skip
    said = {"photo": photo, "what": what, "seals": [seal_of([event])]}
    record(visit.programme, person, "visit.photographed", visit, **said)


@transaction.atomic
def read_air(sample: Sample, person: Person, air_c: Decimal) -> None:
    """The air thermometer, read last, in °C."""
    seals = _happen(sample, person, Kind.CONDITIONS, air_c=str(air_c))
    record(sample.programme, person, "sample.context", sample, air_c=str(air_c), seals=seals)


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
def decide_to_go(sample: Sample, person: Person, made: VisitAct | None = None) -> None:
    """The person has looked and says it is safe. made: by a device, to be sent later."""
    seals = _happen(sample, person, Kind.SAFE, made)
    record(sample.programme, person, "sample.safe", sample, seals=seals)


@transaction.atomic
def do_not_sample(
    sample: Sample,
    person: Person,
    reason: str,
    made: VisitAct | None = None,
    went_at: datetime | None = None,
) -> None:
    """Not sampled, and why: a kept outcome. went_at: when somebody was there, from paper."""
    beside = made is not None and sample.outcome != Sample.Outcome.OPEN
    said: dict[str, Any] = {"reason": reason}
    if went_at:
        said["went_at"] = went_at.isoformat()
    seals = _happen(sample, person, Kind.NOT_TAKEN, made, beside, **said)
    act = "sample.beside" if beside else "sample.not-taken"
    record(sample.programme, person, act, sample, reason=reason, seals=seals)


@transaction.atomic
def note_context(
    sample: Sample, person: Person, noted: dict[str, Any], made: VisitAct | None = None
) -> None:
    """Weather, temperatures and what is seen, before touching the water."""
    beside = made is not None and sample.context_at is not None
    data = {name: as_plain(value) for name, value in noted.items()}
    seals = _happen(sample, person, Kind.CONDITIONS, made, beside, **data)
    act = "sample.beside" if beside else "sample.context"
    record(sample.programme, person, act, sample, seals=seals, **context_of(sample))


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
    noted: dict[str, Any] | None = None,
    made: VisitAct | None = None,
    *,
    from_paper: bool = False,
    note: str = "",
) -> None:
    """The sample is in the bottle; *depth_cm*: how far below the surface, *water_c*: the water's
    temperature, *noted*: how it was taken, where they were noted. from_paper: typed in afterwards,
    with a note."""
    data: dict[str, Any] = {
        "taken_at": at.isoformat(),
        "zone": zone,
        "depth_cm": depth_cm,
    }
    if water_c is not None:
        data["water_c"] = str(water_c)
    if noted:
        data["noted"] = noted
    if from_paper:
        data |= {"from_paper": True, "note": note}
    beside = made is not None and sample.outcome != Sample.Outcome.OPEN
    seals = _happen(sample, person, Kind.TAKEN, made, beside, **data)
    act = "sample.beside" if beside else "sample.taken"
    record(sample.programme, person, act, sample, seals=seals, **context_of(sample))


@transaction.atomic
def decide(beside: VisitEvent, person: Person, chosen: VisitEvent, why: str) -> None:
    """Of two records of a sample *chosen* holds. beside: the one that came second."""
    sample: Sample = Sample.objects.of(beside.programme_id).get(pk=beside.sample_id)
    data = {
        "chosen": chosen.pk,
        "of_kind": chosen.kind,
        "data": chosen.data,
        "at": chosen.at.isoformat(),
        "of_person": chosen.by_id,
        "why": why,
    }
    seals = _happen(sample, person, Kind.DECIDED, settles=beside, **data)
    record(sample.programme, person, "sample.decided", sample, why=why, seals=seals)


def stands_against(beside: VisitEvent) -> VisitEvent | None:
    """The record that holds, beside which this one was kept: of the same sample and about the same
    thing."""
    about = (Kind.CONDITIONS,) if beside.kind == Kind.CONDITIONS else (Kind.TAKEN, Kind.NOT_TAKEN)
    events = VisitEvent.objects.of(beside.programme_id).filter(sample=beside.sample_id)
    found: VisitEvent | None = (
        events.filter(kind__in=about, beside=False).select_related("by").last()
    )
    return found


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
    return list(corrected.defer(*beside_the_names("by")).order_by("-pk"))


def context_of(sample: Sample) -> dict[str, Any]:
    """The sample and its field conditions as plain values, for the record; without a depth, and
    without what the kind of water asks, where nobody noted them."""
    held = _every(sample)
    optional = ("depth_cm", "noted")
    return {
        name: held[name] for name in held if name not in optional or held[name] not in (None, {})
    }


def _as_made(made: VisitAct | None) -> dict[str, Any]:
    """What is kept of an act that a device made: its name, its clocks, and when it was."""
    if made is None:
        return {}
    at = datetime.fromisoformat(made.true_at)
    return {"sent_id": made.id, "device": made.as_plain, "at": at}


def _happen(
    sample: Sample,
    by: Person | None,
    kind: VisitEvent.Kind,
    made: VisitAct | None = None,
    beside: bool = False,
    settles: VisitEvent | None = None,
    **data: Any,
) -> list[dict[str, Any]]:
    """Keep the event, and let sample and tests follow from it; what the audit seals of it. beside:
    something else was kept before."""
    event = VisitEvent.objects.create(
        programme_id=sample.programme_id,
        visit_id=sample.visit_id,
        sample=sample,
        kind=kind,
        by=by,
        data=data,
        beside=beside,
        settles=settles,
        **_as_made(made),
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
