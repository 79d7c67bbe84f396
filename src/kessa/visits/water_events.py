"""What happened at a water: rain, salt, a dose, a repair. Written down once, and withdrawn where it
was a mistake; what was written stays."""

from datetime import datetime

from django.db import transaction

from kessa.places.models import Point, Water
from kessa.platform.audit import record
from kessa.platform.hashes import seal_of
from kessa.platform.models import Person
from kessa.visits.models import WaterEvent


@transaction.atomic
def note_event(
    water: Water,
    by: Person | None,
    kind: str,
    happened_at: datetime,
    words: str = "",
    point: Point | None = None,
) -> WaterEvent:
    """Something happened at a water, or at one of its points alone. words: what exactly."""
    made = WaterEvent.objects.create(
        programme_id=water.programme_id,
        water=water,
        point=point,
        kind=kind,
        happened_at=happened_at,
        words=words,
        by=by,
    )
    said = {"kind": kind, "words": words, "seals": [seal_of([made])]}
    record(water.programme, by, "water.event", water, **said)
    return made


@transaction.atomic
def withdraw_event(event: WaterEvent, by: Person) -> bool:
    """It did not happen, or not so. False where it was withdrawn before."""
    events = WaterEvent.objects.of(event.programme_id)
    if event.withdraws_id or events.filter(withdraws=event).exists():
        return False
    made = WaterEvent.objects.create(
        programme_id=event.programme_id,
        water=event.water,
        point=event.point,
        kind=event.kind,
        happened_at=event.happened_at,
        words=event.words,
        by=by,
        withdraws=event,
    )
    said = {"kind": event.kind, "words": event.words, "seals": [seal_of([made])]}
    record(event.water.programme, by, "water.event-withdrawn", event.water, **said)
    return True
