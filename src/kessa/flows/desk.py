"""Acts that a page of Kessa makes itself, in a person's name: they go the way of every other."""

import uuid
from typing import Any

from django.db.models import Max
from django.utils import timezone

from kessa.flows.receiving import Sender, UploadResult, keep_from
from kessa.platform import clock
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Person
from kessa.platform.typed import one_line
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


def refuse_unfit(received: UploadResult, failed: str) -> None:
    """Raise ActionNotAllowed where an act was refused, or has no place: *failed*, with the core's
    own reason."""
    if received.refused:
        raise ActionNotAllowed(received.refused[0]["reason"])
    if reason := dict(received.runs[0][1].ignored).get(received.kept[0]):
        raise ActionNotAllowed(f"{failed}: {reason}.")


def end_unfinished(run: Run, person: Person, why: str) -> None:
    """End a test that nobody finishes: what was read is kept, the rest is not tested. *why*: as
    somebody typed it, or nothing."""
    cause = one_line(why, 120) or "ended from the list of unfinished tests"
    desk_acts(run, person, ("take-over", {}), ("stop", {"cause": cause}))
