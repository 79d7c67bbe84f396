"""Acts that a page of Kessa makes itself, in a person's name: they go the way of every other."""

import uuid
from typing import Any

from django.db.models import Max
from django.utils import timezone

from kessa.flows.receiving import Sender, UploadResult, keep_from
from kessa.platform import clock
from kessa.platform.models import Person
from kessa.runs.models import Event, Run


def desk_acts(run: Run, person: Person, *acts: tuple[str, dict[str, Any]]) -> UploadResult:
    """Keep these acts (name, data) of *run* as made now, from this desk."""
    kept = Event.objects.of_run(run).order_by()
    last = kept.aggregate(lamport=Max("lamport"))["lamport"] or 0
    now = timezone.localtime(clock.now()).isoformat(timespec="milliseconds")
    events = [
        {
            "v": 2,
            "id": str(uuid.uuid4()),
            "run": str(run.pk),
            "act": act,
            "data": data,
            "device": f"desk-{person.pk:08d}",
            "seq": at,
            "lamport": at,
            "at": now,
            "offset_ms": 0,
        }
        for at, (act, data) in enumerate(acts, last + 1)
    ]
    return keep_from(Sender(run.programme, person, desk=True), events)


def end_unfinished(run: Run, person: Person, why: str) -> None:
    """End a test that nobody finishes: what was read is kept, the rest is not tested. *why*: as
    somebody typed it, or nothing."""
    said = " ".join(why.replace("\x00", "").split())[:120]
    cause = said or "ended from the list of unfinished tests"
    desk_acts(run, person, ("take-over", {}), ("stop", {"cause": cause}))
