"""Opening a run: at the server for a sample, or on the device to go on from another."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any
from uuid import UUID, uuid4

from django.db import transaction
from django.db.models import Max, Model

from kessa.library.cases import Along, things_along
from kessa.library.models import Lot, MethodVersion
from kessa.library.services import count_use
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.hashes import seal_of, seal_of_batch
from kessa.platform.models import Person, Programme
from kessa.runs.instruments import take_instruments
from kessa.runs.models import CANCELLED, Event, Run, RunDecision, RunLot, event_row
from kessa.visits.models import Sample, TestAsked
from kessa.visits.services import set_test_state
from kessa_core.methods import Method
from kessa_core.runs import Event as CoreEvent
from kessa_core.runs import RunState, fold
from kessa_core.runs.act_models import Begin


@dataclass
class Stored:
    """What became of events: the rows that are new, the ids kept now or before, and the ids that
    belong to another run. refused: why others are not kept, by their id."""

    batch: str
    fresh: list[Event] = field(default_factory=list)
    kept: list[str] = field(default_factory=list)
    foreign: list[str] = field(default_factory=list)
    refused: dict[str, str] = field(default_factory=dict)

    @property
    def seals(self) -> list[dict[str, Any]]:
        """What the audit seals of them."""
        return [seal_of_batch(self.fresh, self.batch)] if self.fresh else []


def changed_since(run: Run, person: Person) -> list[str]:
    """What changed in the method since *person* last did it, a line each; none once begun."""
    last = _last_of(run.programme, person, run.version.method_id, run.pk)
    if last is None or last.version_id == run.version_id or run.events.exists():
        return []
    return run.method.changed_since(last.method)


def changed_since_last(programme: Programme, person: Person, method: Method) -> list[str]:
    """What changed in a method up to this document since *person* last did it, a line each."""
    last = _last_of(programme, person, method.id)
    return method.changed_since(last.method) if last else []


def _last_of(
    programme: Programme, person: Person, method_id: str, but: UUID | None = None
) -> Run | None:
    """The last run of a method that *person* opened."""
    mine = Run.objects.of(programme).filter(opened_by=person, version__method_id=method_id)
    found: Run | None = mine.exclude(pk=but).order_by("-opened_at").first()
    return found


FURTHEST_AHEAD = 10_000
"""How far an act's counter may run ahead of its run: more than anybody does without a network. One
that was as high as it goes would leave no number for the next act."""
BEFORE_ANY_READING = ("begin", "accept", "note", "take-over", "undo")
"""Acts after which a test can still be cancelled: nothing was done with the sample."""


def untouched(run: Run) -> bool:
    """Whether nothing has been done in this run but looking at it."""
    return not run.events.exclude(act__in=BEFORE_ANY_READING).exists()


@transaction.atomic
def cancel(run: Run, person: Person) -> bool:
    """The wrong test was opened: it ends without a result. False when something was done in it."""
    held = Run.objects.of(run.programme_id).select_for_update(of=("self",)).get(pk=run.pk)
    if held.finish or not untouched(held):
        return False
    made = _decide(held, person, RunDecision.Kind.CANCELLED)
    seals = [seal_of([made]), *set_finish(held, CANCELLED, person)]
    record(run.programme, person, "run.cancelled", run, method=run.version.method_id, seals=seals)
    return True


@transaction.atomic
def change(run: Run, person: Person, version: MethodVersion) -> Run | None:
    """Another test of the same sample in place of one that was not begun; None when it was."""
    return _create(run.sample, version, person) if cancel(run, person) else None


@transaction.atomic
def hand_over(run: Run, person: Person, to: Person) -> None:
    """Somebody else continues an unfinished test."""
    made = _decide(run, person, RunDecision.Kind.HANDED_OVER, to)
    run.kept_by = to
    run.save(update_fields=["kept_by"])
    record(run.programme, person, "run.handed-over", run, to=to.pk, seals=[seal_of([made])])


@transaction.atomic
def open_run(sample: Sample, person: Person, method_id: str = "") -> Run:
    """A run of this method, or of the first that the sample was taken for, with the lot in use."""
    newest = MethodVersion.objects.of(sample.programme).newest()
    return _create(sample, newest.get(method_id=method_id or sample.method_id), person)


@transaction.atomic
def open_runs(sample: Sample, person: Person) -> list[Run]:
    """A run of every test that is asked of the sample: the one that was made ready for it, or a new
    one. What was made ready and is asked no more is cancelled."""
    asked = list(TestAsked.objects.of(sample.programme_id).filter(sample=sample).open())
    ready = _ready(sample)
    for method_id, run in ready.items():
        if method_id not in [test.method_id for test in asked]:
            cancel(run, person)
        else:
            seals = set_test_state(sample, person, method_id, TestAsked.State.RUNNING)
            record(sample.programme, person, "run.opened", run, method=method_id, seals=seals)
    return [ready.get(one.method_id) or open_run(sample, person, one.method_id) for one in asked]


@transaction.atomic
def make_ready(sample: Sample, person: Person) -> list[Run]:
    """A run of every test that is asked of a sample before it is taken, so that a device can keep
    their pages and go on without a network."""
    newest = MethodVersion.objects.of(sample.programme).newest()
    asked = TestAsked.objects.of(sample.programme_id).filter(sample=sample).open()
    ready, along = _ready(sample), _along(sample)
    return [
        ready.get(one.method_id)
        or _create(sample, newest.get(method_id=one.method_id), person, begins=False, along=along)
        for one in asked
    ]


def _along(sample: Sample) -> Along:
    """What the visit of a sample has along."""
    return things_along(sample.programme_id, sample.visit.case_id)


def _ready(sample: Sample) -> dict[str, Run]:
    """The runs that were made ready for a sample and not begun by it yet, by method."""
    runs = Run.objects.of(sample.programme_id).filter(sample=sample, finish="")
    return {run.version.method_id: run for run in runs}


def _create(
    sample: Sample,
    version: MethodVersion,
    person: Person,
    run_id: UUID | None = None,
    continues: Run | None = None,
    begins: bool = True,
    along: Along | None = None,
) -> Run:
    """A run; begins: the sample is there, so that its test is under way. along: what the visit has
    along, where it was looked up for several runs."""
    along = along or _along(sample)
    at_hand = Lot.objects.of(sample.programme_id)
    lots = at_hand.newest_of(version.method.materials, along.lots.nearness)
    chosen = {"id": run_id} if run_id else {}
    run = Run.objects.create(
        programme_id=sample.programme_id,
        sample=sample,
        version=version,
        water_kind=sample.point.water.kind,
        continues=continues,
        opened_by=person,
        kept_by=person,
        opened_at=clock.now(),
        **chosen,
    )
    used = RunLot.objects.bulk_create(
        RunLot(programme_id=run.programme_id, run=run, lot=lot) for lot in lots.values()
    )
    count_use(version)
    instruments = take_instruments(run, person, along.instruments)
    seals = (
        set_test_state(sample, person, version.method_id, TestAsked.State.RUNNING) if begins else []
    )
    rows: list[Sequence[Model]] = [[run], used, instruments]
    seals = [*seals, *(seal_of(some) for some in rows if some)]
    said = {
        "method": version.method_id,
        "lots": [str(lot) for lot in lots.values()],
        "instruments": [str(one.instrument) for one in instruments],
        "seals": seals,
    }
    record(sample.programme, person, "run.opened" if begins else "run.ready", run, **said)
    return run


def find_or_begin(
    programme: Programme,
    person: Person,
    run_id: str,
    events: list[CoreEvent],
    visit_id: int | None = None,
) -> Run | None:
    """The run with this id, locked; or one that the device began to continue another.

    *visit_id* leaves only that visit's runs.
    """
    try:
        wanted = UUID(run_id)
    except ValueError:
        return None
    runs = Run.objects.of(programme).select_for_update(of=("self",))
    if visit_id:
        runs = runs.filter(sample__visit_id=visit_id)
    found: Run | None = runs.filter(pk=wanted).first()
    if found or is_taken(wanted):
        return found
    begun = next((one.content for one in events if isinstance(one.content, Begin)), None)
    before = _uuid(begun.continues) if begun else None
    previous = runs.filter(pk=before).exclude(finish="").first() if before else None
    if not previous or not begun:
        return None
    followers = previous.method.followers
    following = begun.method or next(iter(followers), "")
    if following not in followers:
        return None
    newest = MethodVersion.objects.of(programme).newest()
    version = newest.filter(method_id=following).first()
    return _create(previous.sample, version, person, wanted, previous) if version else None


def is_taken(run_id: UUID) -> bool:
    """Whether a run of any programme has this id."""
    return bool(Run._base_manager.filter(pk=run_id).exists())


@transaction.atomic
def store_events(run: Run, person: Person, events: list[CoreEvent]) -> Stored:
    """Keep each of these events once, in the order of arrival, sealed as one batch."""
    ids = [event.id for event in events]
    known = dict(Event._base_manager.filter(pk__in=ids).values_list("pk", "run_id"))
    kept = Event.objects.of_run(run).order_by()
    before = kept.aggregate(last=Max("arrival"), lamport=Max("lamport"))
    last, lamport = before["last"] or 0, before["lamport"] or 0
    others = set(kept.exclude(person=person).values_list("device", flat=True))
    batch = str(uuid4())
    stored = Stored(batch)
    for event in sorted(events, key=lambda one: one.order):
        if event.id not in known:
            if event.lamport > lamport + FURTHEST_AHEAD:
                stored.refused[event.id] = "Its counter is far ahead of this test."
                continue
            if event.device in others:
                stored.refused[event.id] = (
                    "This device’s actions in this test belong to another person."
                )
                continue
            lamport = max(lamport, event.lamport)
            number = last + len(stored.fresh) + 1
            stored.fresh.append(event_row(run, person, event, number, batch))
            known[event.id] = run.pk
        mine = known[event.id] == run.pk
        (stored.kept if mine else stored.foreign).append(event.id)
    Event.objects.bulk_create(stored.fresh)
    return stored


def events_of(run: Run) -> list[CoreEvent]:
    """The run's events in the order they are folded."""
    return [event.as_core() for event in Event.objects.of_run(run)]


def events_of_each(programme_id: int, runs: Sequence[Run]) -> dict[UUID, list[CoreEvent]]:
    """The events of several runs in the order they are folded, in one query."""
    found: dict[UUID, list[CoreEvent]] = {run.pk: [] for run in runs}
    rows = Event.objects.of(programme_id).filter(run__in=[run.pk for run in runs])
    for event in rows.order_by("lamport", "device", "seq"):
        found[event.run_id].append(event.as_core())
    return found


def state_of(run: Run, events: Sequence[CoreEvent] | None = None) -> RunState:
    """The run's state from all its events; they are read where they are not given."""
    return fold(run.method, events_of(run) if events is None else events, run.core_lots)


def set_finish(run: Run, finish: str, person: Person | None) -> list[dict[str, Any]]:
    """The run has ended in this way, or is unfinished again; so is the test that was asked for.
    What the audit seals of it."""
    if run.finish == finish:
        return []
    run.finish = finish
    run.save(update_fields=["finish"])
    states = {"": TestAsked.State.RUNNING, CANCELLED: TestAsked.State.CANCELLED}
    state = states.get(finish, TestAsked.State.DONE)
    return set_test_state(run.sample, person, run.version.method_id, state)


def _decide(
    run: Run, person: Person, kind: RunDecision.Kind, to: Person | None = None
) -> RunDecision:
    return RunDecision.objects.create(
        programme_id=run.programme_id, run=run, kind=kind, by=person, to=to
    )


def _uuid(text: Any) -> UUID | None:
    try:
        return UUID(str(text))
    except ValueError:
        return None
