"""Another limit set at a water."""

from collections.abc import Iterable
from datetime import datetime

from django.db import transaction

from kessa.flows.jobs import ask_to_judge
from kessa.places.limit_sets import Target, write_targets
from kessa.places.models import Point, Water
from kessa.places.services import attach_limits, day_there
from kessa.platform import clock
from kessa.platform.days import start_of
from kessa.platform.models import Person
from kessa_core.judging import LimitSet


@transaction.atomic
def change_limits(
    water: Water,
    by: Person,
    limit_set: str,
    valid_from: datetime | None = None,
    point: Point | None = None,
) -> bool:
    """Another limit set applies at the water, or at one *point* of it alone, from *valid_from* on
    (now, where it is not given).

    Whether what was sampled since is going to be judged again: not where that set applies already,
    nor where it applies from now on.
    """
    if not attach_limits(water, by, limit_set, valid_from, point) or valid_from is None:
        return False
    ask_to_judge(water, by)
    return True


@transaction.atomic
def set_targets(
    water: Water,
    by: Person,
    held: LimitSet | None,
    targets: Iterable[Target],
    valid_from: datetime | None = None,
) -> bool:
    """Own targets apply at the water, beside the limits of the set that *held*; whether what was
    sampled since is going to be judged again. The first limits of a water hold from this morning
    on, so that the round that was just walked is judged by them."""
    if held is None and valid_from is None:
        valid_from = start_of(day_there(water, clock.now()))
    made = write_targets(water, by, held, targets)
    return change_limits(water, by, made.set_id, valid_from)
