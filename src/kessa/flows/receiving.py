"""Keeping the events that arrive: once each, refused one by one, evaluated at once."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from django.db import transaction

from kessa.flows.evaluating import Shown, evaluate
from kessa.platform.audit import record
from kessa.platform.models import Person, Programme
from kessa.results.services import is_reviewed
from kessa.runs.models import Event, Run
from kessa.runs.photographs import project_photographs
from kessa.runs.services import events_of, find_or_begin, state_of, store_events
from kessa_core.errors import BadEvent
from kessa_core.runs import Event as CoreEvent
from kessa_core.runs import RunState, read_event
from kessa_core.runs.act_models import Correct

REVIEWED = "This test is reviewed. Correct its result instead."
AT_THE_DESK = {
    "correct": "Correct readings on the result’s page.",
    "read-photo": "Read photographs on their page.",
    "ask-again": "Ask for a second reading on the result’s page.",
}
"""Acts that no device makes, each with where it is done."""
MAX_EVENTS = 500
"""Events in one sending; the device sends the rest afterwards."""


@dataclass(frozen=True)
class Sender:
    """Who sends. visit_id: the only visit that a device's token appends to. desk: a page of Kessa
    itself, which alone corrects readings."""

    programme: Programme
    person: Person
    visit_id: int | None = None
    desk: bool = False


@dataclass
class UploadResult:
    """What became of the events: ids kept (now or before), refusals with reasons, runs touched."""

    kept: list[str] = field(default_factory=list)
    refused: list[dict[str, str]] = field(default_factory=list)
    runs: list[tuple[Run, RunState]] = field(default_factory=list)


def keep(programme: Programme, person: Person, sent: Sequence[Any]) -> UploadResult:
    """keep_from() for a person who is signed in."""
    return keep_from(Sender(programme, person), sent)


def keep_from(sender: Sender, sent: Sequence[Any]) -> UploadResult:
    """Keep every event that can be kept; refuse the others one by one with a reason.

    An event that was kept before is named as kept again and stored once.
    """
    received = UploadResult()
    by_run: dict[str, list[CoreEvent]] = defaultdict(list)
    for raw in sent[:MAX_EVENTS]:
        try:
            event = read_event(raw)
        except BadEvent as error:
            given = raw.get("id") if isinstance(raw, dict) else ""
            _refuse(received, str(given)[:64], str(error))
            continue
        if event.act in AT_THE_DESK and not sender.desk:
            _refuse(received, event.id, AT_THE_DESK[event.act])
        else:
            by_run[event.run].append(event)
    for run_id, events in by_run.items():
        _keep_run(sender, run_id, events, received)
    return received


@transaction.atomic
def _keep_run(sender: Sender, run_id: str, events: list[CoreEvent], received: UploadResult) -> None:
    """Keep, evaluate, judge, project and seal what arrived for one run."""
    run = find_or_begin(sender.programme, sender.person, run_id, events, sender.visit_id)
    if run is None:
        for event in events:
            _refuse(received, event.id, "The server does not know this test.")
        return
    if not sender.desk and is_reviewed(run):
        known = set(Event.objects.of_run(run).values_list("pk", flat=True))
        received.kept += [event.id for event in events if event.id in known]
        for event in events:
            if event.id not in known:
                _refuse(received, event.id, REVIEWED)
        return
    stored = store_events(run, sender.person, events)
    events = events_of(run)
    state = state_of(run, events)
    if stored.fresh:
        if run.sample.taken_at is not None:
            evaluate(run, state, sender.person, _why(stored.fresh), _shown(events, state))
        count, seals = len(stored.fresh), stored.seals
        project_photographs(run, state)
        record(sender.programme, sender.person, "acts.kept", run, count=count, seals=seals)
    received.kept += stored.kept
    for event_id, reason in stored.refused.items():
        _refuse(received, event_id, reason)
    for event_id in stored.foreign:
        _refuse(received, event_id, "This id belongs to another action.")
    received.runs.append((run, state))


def _why(fresh: list[Event]) -> str:
    """The reason that a correction among the acts gives."""
    acts = (event.as_core().content for event in reversed(fresh))
    return next((act.why for act in acts if isinstance(act, Correct)), "")


def _shown(events: Sequence[CoreEvent], state: RunState) -> Shown:
    """What the bench page showed as results, by stage: the last act that led to each. Where a
    reading was corrected since, what the page showed before says nothing any more."""
    shown: Shown = {}
    for event in events:
        if event.act == "correct":
            shown = {}
        elif event.id not in state.undone and "f" in event.shown:
            said = dict(event.shown)
            shown[str(said.pop("stage", ""))] = said
    return shown


def _refuse(received: UploadResult, event_id: str, reason: str) -> None:
    received.refused.append({"id": event_id, "reason": reason})
