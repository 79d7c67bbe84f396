"""Keeping the events that arrive: once each, refused one by one, evaluated at once."""

import uuid
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from django.db import transaction
from django.db.models import Max

from kessa.accounts.models import Person, Programme
from kessa.bench.models import Event, Run, event_row
from kessa.bench.services import find_or_begin
from kessa.log.services import Shown, evaluate
from kessa.records.seals import sha_of_events
from kessa.records.services import record
from kessa.visits.models import Visit
from kessa_core.errors import BadEvent
from kessa_core.runs import Event as CoreEvent
from kessa_core.runs import RunState, fold, read_event

MAX_EVENTS = 500
"""Events in one sending; the device sends the rest afterwards."""


@dataclass(frozen=True)
class Sender:
    """Who sends. visit: the only visit a device's capability appends to. desk: a page of Kessa
    itself, which alone corrects readings."""

    programme: Programme
    person: Person
    visit: Visit | None = None
    desk: bool = False


@dataclass
class Received:
    """What became of the events: ids kept (now or before), refusals with reasons, runs touched."""

    kept: list[str] = field(default_factory=list)
    refused: list[dict[str, str]] = field(default_factory=list)
    runs: list[tuple[Run, RunState]] = field(default_factory=list)


def keep(programme: Programme, person: Person, sent: Sequence[Any]) -> Received:
    """keep_from() for a person who is signed in."""
    return keep_from(Sender(programme, person), sent)


def keep_from(sender: Sender, sent: Sequence[Any]) -> Received:
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
            continue
        if event.act == "correct" and not sender.desk:
            _refuse(received, event.id, "Readings are corrected on the result’s page.")
        else:
            by_run[event.run].append(event)
    for run_id, events in by_run.items():
        _keep_run(sender, run_id, events, received)
    return received


@transaction.atomic
def _keep_run(sender: Sender, run_id: str, events: list[CoreEvent], received: Received) -> None:
    run = find_or_begin(sender.programme, sender.person, run_id, events, sender.visit)
    if run is None:
        for event in events:
            _refuse(received, event.id, "This run is not known here.")
        return
    known = dict(Event.objects.filter(pk__in=[e.id for e in events]).values_list("pk", "run_id"))
    last = Event.objects.filter(run=run).aggregate(last=Max("arrival"))["last"] or 0
    batch = str(uuid.uuid4())
    fresh: list[Event] = []
    for event in events:
        if event.id not in known:
            fresh.append(event_row(run, sender.person, event, last + len(fresh) + 1, batch))
            known[event.id] = run.pk
        if known[event.id] == run.pk:
            received.kept.append(event.id)
        else:
            _refuse(received, event.id, "This id belongs to another act.")
    Event.objects.bulk_create(fresh)
    every = [event.as_core() for event in Event.objects.of_run(run)]
    state = fold(run.version.method, every, run.core_lots)
    if fresh:
        sealed = {"batch": batch, "count": len(fresh), "sha": sha_of_events(fresh)}
        evaluate(run, state, sender.person, _why(fresh), _shown(every, state))
        record(run.programme, sender.person, "acts.kept", run, **sealed)
    received.runs.append((run, state))


def _why(fresh: list[Event]) -> str:
    """The reason that a correction among the acts gives."""
    return next((str(e.data["why"]) for e in reversed(fresh) if e.act == "correct"), "")


def _shown(every: list[CoreEvent], state: RunState) -> Shown:
    """What the bench page showed as results, by stage: the last act that led to each. Where a
    reading was corrected since, what the page showed before says nothing any more."""
    shown: Shown = {}
    for event in every:
        if event.act == "correct":
            shown = {}
        elif event.id not in state.undone and "f" in event.shown:
            said = dict(event.shown)
            shown[str(said.pop("stage", ""))] = said
    return shown


def _refuse(received: Received, event_id: str, reason: str) -> None:
    received.refused.append({"id": event_id, "reason": reason})
