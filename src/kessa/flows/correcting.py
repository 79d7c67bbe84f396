"""Correcting a result: a reading by an event, a sample or its field conditions by a correction."""

from typing import Any

from django.db import transaction

from kessa.flows.desk import desk_acts, refuse_unfit
from kessa.flows.evaluating import evaluate
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Person
from kessa.platform.permissions import Permission, may
from kessa.results.models import Result
from kessa.runs.models import Run
from kessa.runs.services import state_of
from kessa.visits import services as visits
from kessa.visits.models import Sample
from kessa_core.readings.scale import InvalidReading


def as_raw(result: Result, determination: str, slot: str, text: str) -> str:
    """What was written, as the scale reads it.

    Raises ActionNotAllowed with the scale's own sentence when the scale cannot show it.
    """
    held = state_of(result.run)
    method = result.run.method
    for stage, state in zip(method.stages, held.stages, strict=True):
        if any(d.id == determination for d in state.determinations):
            reader = stage.reader(result.run.core_lots)
            scale = reader.scale(slot or reader.reading_fields[-1])
            raw = scale.raw(text)
            try:
                scale.parse(raw)
            except InvalidReading as wrong:
                known = f" One of: {', '.join(scale.labels)}." if scale.labels else ""
                raise ActionNotAllowed(f"{wrong}{known}") from None
            return raw
    return text


def may_correct(result: Result, person: Person, role: str, own: set[int]) -> bool:
    """Reviewers correct a result, and those whose hands are in it: *own*, and who sampled."""
    if may(role, Permission.REVIEW):
        return True
    hands = own | {result.run.sample.taken_by_id}
    return may(role, Permission.TEST) and person.pk in hands


@transaction.atomic
def correct_reading(
    result: Result,
    person: Person,
    determination: str,
    drops: int,
    kind: str,
    why: str,
    raw: str = "",
    slot: str = "",
) -> None:
    """Change what one determination read, or strike it (kind "struck"); the run follows.

    drops: the right count; raw: what a scale showed, as it was typed, in *slot* (its last one when
    empty).

    Raises ActionNotAllowed with the core's own reason when the correction does not fit.
    """  # fmt: skip
    run = result.run
    data: dict[str, Any] = {"determination": determination, "kind": kind, "why": why}
    if drops:
        data["drops"] = drops
    elif raw:
        data |= {"raw": as_raw(result, determination, slot, raw), "slot": slot}
    refuse_unfit(desk_acts(run, person, ("correct", data)), "Not corrected")


@transaction.atomic
def correct_sample(sample: Sample, person: Person, changes: dict[str, Any], why: str) -> None:
    """Change a sample or its context; every result of it is evaluated again.

    Raises ActionNotAllowed when nothing would change.
    """
    if not visits.correct(sample, person, changes, why):
        raise ActionNotAllowed("Nothing was changed.")
    for run in Run.objects.of(sample.programme_id).filter(sample=sample).exclude(finish=""):
        evaluate(run, by=person, why=why)
