"""Reading photographs: the first reading, a second one by somebody who did not see the first."""

from dataclasses import dataclass
from typing import Any

from django.db import transaction

from kessa.flows.desk import desk_acts, refuse_unfit
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Person
from kessa.platform.typed import one_line
from kessa.runs.models import PhotoReading, Run
from kessa_core.methods.stage import Stage
from kessa_core.methods.steps import Step
from kessa_core.readings.reading_type import ReadingType
from kessa_core.readings.scale import InvalidReading, Scale

W = PhotoReading.Wanted
READ_FIRST = "You made the first reading. Another person makes the second one."


@dataclass(frozen=True)
class ToRead:
    """What is read from a photograph: the stage, the step at which it was taken, the scale."""

    stage: Stage
    step: Step | None
    reader: ReadingType
    scale: Scale


def to_read(row: PhotoReading) -> ToRead:
    """What a photograph is read for."""
    method = row.run.method
    stage = method.stage(row.determination.rpartition(".")[0]) or method.stages[0]
    reader = stage.reader(row.run.core_lots)
    step = next((step for step in stage.steps if step.slot == row.slot), None)
    return ToRead(stage, step, reader, reader.scale(row.slot))


@transaction.atomic
def read_photograph(row: PhotoReading, person: Person, text: str, *, sure: bool = False) -> None:
    """Keep what *person* reads, as it was typed; the run and its results follow.

    Raises ActionNotAllowed with a sentence where it is not on the scale, or not theirs to read.
    """
    row = _held(row, person)
    scale = to_read(row).scale
    raw = scale.raw(text)
    try:
        scale.parse(raw, sure)
    except InvalidReading as wrong:
        raise ActionNotAllowed(str(wrong)) from None
    _keep(row, person, raw=raw, **({"sure": 1} if sure else {}))


@transaction.atomic
def set_aside(row: PhotoReading, person: Person, why: str) -> None:
    """A photograph that cannot be read, and why; its measurement has no reading.

    Raises ActionNotAllowed where it has been read already: that reading stands.
    """
    row = _held(row, person)
    reason = one_line(why, 120)
    if not reason:
        raise ActionNotAllowed("Say what is wrong with the photograph.")
    if row.wanted == W.SECOND:
        raise ActionNotAllowed("It has been read once; that reading stands.")
    _keep(row, person, unreadable=reason)


@transaction.atomic
def ask_again(row: PhotoReading, person: Person) -> None:
    """A second person reads the photograph, without seeing the first reading."""
    what = {"determination": row.determination, "slot": row.slot}
    refuse_unfit(desk_acts(row.run, person, ("ask-again", what)), "Not asked for")


def _held(row: PhotoReading, person: Person) -> PhotoReading:
    """The row as it stands now, its run held until the transaction ends."""
    Run.objects.of(row.programme_id).select_for_update(of=("self",)).get(pk=row.run_id)
    held: PhotoReading = PhotoReading.objects.of(row.programme_id).with_tests().get(pk=row.pk)
    if held.wanted == W.NOTHING:
        raise ActionNotAllowed("This photograph has been read.")
    if held.wanted == W.SECOND and held.read_by_id == person.pk:
        raise ActionNotAllowed(READ_FIRST)
    return held


def _keep(row: PhotoReading, person: Person, **data: Any) -> None:
    again = {"again": 1} if row.wanted == W.SECOND else {}
    said = {"determination": row.determination, "slot": row.slot, **data, **again}
    refuse_unfit(desk_acts(row.run, person, ("read-photo", said)), "Not saved")
