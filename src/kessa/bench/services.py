"""What changes a run: opening it, and keeping the events that arrive."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from kessa.accounts.models import Person, Programme
from kessa.bench.models import Event, Run, event_row
from kessa.library.models import Lot, MethodVersion
from kessa.visits.models import Sample
from kessa_core.errors import BadEvent
from kessa_core.runs import Event as CoreEvent
from kessa_core.runs import RunState, read_event

MAX_EVENTS = 500
"""Events in one sending; the device sends the rest afterwards."""


@dataclass
class Received:
    """What became of the events: ids kept (now or before), refusals with reasons, runs touched."""

    kept: list[str] = field(default_factory=list)
    refused: list[dict[str, str]] = field(default_factory=list)
    runs: list[tuple[Run, RunState]] = field(default_factory=list)


def open_run(sample: Sample, person: Person) -> Run:
    """A run of the method the sample was taken for, with the lot in use."""
    newest = MethodVersion.objects.of(sample.programme).newest()
    return _create(sample, newest.get(method_id=sample.method_id), person)


def _create(
    sample: Sample,
    version: MethodVersion,
    person: Person,
    run_id: UUID | None = None,
    continues: Run | None = None,
) -> Run:
    titrant = version.method.titration.titrant
    lot = Lot.objects.of(sample.programme_id).of_reagent(titrant).first()
    chosen = {"id": run_id} if run_id else {}
    return Run.objects.create(
        programme_id=sample.programme_id,
        sample=sample,
        version=version,
        lot=lot,
        continues=continues,
        opened_by=person,
        opened_at=timezone.now(),
        **chosen,
    )


def keep(programme: Programme, person: Person, sent: Sequence[Any]) -> Received:
    """Keep every event that can be kept; refuse the others one by one with a reason.

    An event that was kept before is named as kept again and stored once.
    """
    received = Received()
    by_run: dict[str, list[CoreEvent]] = defaultdict(list)
    for raw in sent[:MAX_EVENTS]:
        try:
            event = read_event(raw)
        except BadEvent as error:
            given = raw.get("id") if isinstance(raw, dict) else ""
            _refuse(received, str(given)[:64], str(error))
        else:
            by_run[event.run].append(event)
    for run_id, events in by_run.items():
        _keep_run(programme, person, run_id, events, received)
    return received


@transaction.atomic
def _keep_run(
    programme: Programme, person: Person, run_id: str, events: list[CoreEvent], received: Received
) -> None:
    from kessa.log.services import evaluate, state_of

    run = _run_of(programme, person, run_id, events)
    if run is None:
        for event in events:
            _refuse(received, event.id, "This run is not known here.")
        return
    known = dict(Event.objects.filter(pk__in=[e.id for e in events]).values_list("pk", "run_id"))
    fresh = []
    for event in events:
        if event.id not in known:
            fresh.append(event_row(run, person, event))
            known[event.id] = run.pk
        if known[event.id] == run.pk:
            received.kept.append(event.id)
        else:
            _refuse(received, event.id, "This id belongs to another act.")
    Event.objects.bulk_create(fresh, ignore_conflicts=True)
    state = state_of(run)
    if fresh:
        evaluate(run, state)
    received.runs.append((run, state))


def _run_of(
    programme: Programme, person: Person, run_id: str, events: list[CoreEvent]
) -> Run | None:
    """The run with this id, locked; or one that the device began to continue another."""
    try:
        wanted = UUID(run_id)
    except ValueError:
        return None
    runs = Run.objects.of(programme).select_for_update(of=("self",))
    found: Run | None = runs.filter(pk=wanted).first()
    if found or Run.objects.filter(pk=wanted).exists():
        return found
    begun = next((event for event in events if event.act == "begin"), None)
    before = _uuid(begun.data.get("continues")) if begun else None
    previous = runs.filter(pk=before, finish="beyond").first() if before else None
    following = previous.version.method.out_of_range.method if previous else None
    if not previous or not following:
        return None
    newest = MethodVersion.objects.of(programme).newest()
    version = newest.filter(method_id=following).first()
    return _create(previous.sample, version, person, wanted, previous) if version else None


def _uuid(text: Any) -> UUID | None:
    try:
        return UUID(str(text))
    except ValueError:
        return None


def _refuse(received: Received, event_id: str, reason: str) -> None:
    received.refused.append({"id": event_id, "reason": reason})
