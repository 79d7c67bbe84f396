"""The photographs that a result rests on: who took and read them, what a second person read."""

from collections.abc import Sequence
from dataclasses import dataclass

from kessa.flows.photographs import to_read
from kessa.platform.models import Person
from kessa.results.models import Result
from kessa.runs.models import Event, PhotoReading
from kessa_core.runs import fold


@dataclass(frozen=True)
class Shown:
    """A photograph with its readings. first: how it was read; empty while it was not. again: what
    the second person read, and who that was."""

    row: PhotoReading
    first: str
    again: str
    again_by: Person | None

    @property
    def may_be_read_again(self) -> bool:
        """Whether a second reading can be asked for."""
        return bool(self.first) and not self.again and not self.row.wanted


def photographs_of(result: Result, rows: Sequence[Event]) -> list[Shown]:
    """Those of the measurements of a result. *rows*: its run's events, each with its person."""
    if not any(event.act == "photo" for event in rows):
        return []
    run, people = result.run, {event.pk: event.person for event in rows}
    state = fold(run.method, [event.as_core() for event in rows], run.core_lots)
    held = {d.id: d for d in state.determinations}
    ids = [d["id"] for d in result.evaluation.determinations]
    taken = PhotoReading.objects.of(result.programme_id).with_tests().filter(run=run)
    found = []
    for row in taken.filter(determination__in=ids).order_by("pk"):
        d = held[row.determination]
        scale = to_read(row).scale
        second = d.again.get(row.slot)
        first = scale.say(d.places[row.slot]) if row.slot in d.places else ""
        again = f"{scale.say(second.n)} {scale.unit}".strip() if second else ""
        by = people.get(second.event) if second else None
        found.append(Shown(row, f"{first} {scale.unit}".strip() if first else "", again, by))
    return found
