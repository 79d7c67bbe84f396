"""Which photographs of a run wait to be read, by its events."""

from collections.abc import Sequence
from datetime import datetime

from kessa.runs.models import Event, PhotoReading, Run
from kessa_core.runs import Determination, RunState

W = PhotoReading.Wanted
ACTS = ("photo", "read", "read-photo")


def project_photographs(run: Run, state: RunState) -> None:
    """Bring the run's rows up to date; one whose measurement does not stand waits for nothing."""
    acts = {event.pk: event for event in Event.objects.of_run(run).filter(act__in=ACTS)}
    taken = [event for event in acts.values() if event.act == "photo"]
    if not taken:
        return
    rows = {
        (row.determination, row.slot): row
        for row in PhotoReading.objects.of(run.programme_id).filter(run=run)
    }
    standing = {
        (held.id, slot): (held, photo)
        for held in state.determinations
        for slot, photo in held.photos.items()
    }
    for key in rows.keys() | standing.keys():
        held, photo = standing.get(key, (None, ""))
        row = rows.get(key) or PhotoReading(
            programme_id=run.programme_id, run=run, determination=key[0], slot=key[1]
        )
        if held:
            _fill(row, held, photo, taken, acts)
        else:
            row.wanted = W.NOTHING
        row.save()


def _fill(
    row: PhotoReading,
    held: Determination,
    photo: str,
    taken: Sequence[Event],
    acts: dict[str, Event],
) -> None:
    made = next(event for event in reversed(taken) if event.data["photo"] == photo)
    read = acts.get(held.read_in.get(row.slot, ""))
    row.photo, row.wanted = photo, wanted(held, row.slot)
    row.photographed_by_id = made.person_id
    row.photographed_at = datetime.fromisoformat(made.as_core().true_at)
    row.read_by_id = read.person_id if read else None


def wanted(held: Determination, slot: str) -> PhotoReading.Wanted:
    """What the photograph of a measurement waits for."""
    if not held.stands:
        return W.NOTHING
    if slot in held.unread:
        return W.FIRST
    return W.SECOND if slot in held.twice and slot not in held.again else W.NOTHING
