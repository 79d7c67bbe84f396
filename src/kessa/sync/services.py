"""Keeping the events that arrive: once each, refused one by one, evaluated at once."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from django.db import transaction

from kessa.accounts.models import Person, Programme
from kessa.bench.models import Event, Run, event_row
from kessa.bench.services import find_or_begin
from kessa.log.services import evaluate, state_of
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
    run = find_or_begin(programme, person, run_id, events)
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


def _refuse(received: Received, event_id: str, reason: str) -> None:
    received.refused.append({"id": event_id, "reason": reason})
