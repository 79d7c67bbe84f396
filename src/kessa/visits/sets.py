"""Making, changing and beginning sets of tests, and where each stands today."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from django.db import transaction
from django.utils import timezone

from kessa.places.models import Point
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.models import Person, Programme
from kessa.platform.revisions import revise
from kessa.visits.models import Visit
from kessa.visits.services import Asked, Prepared, begin_visit
from kessa.visits.set_models import TestSet
from kessa_core.preparing import Standing, standing_of


@dataclass(frozen=True)
class SetToday:
    """A set and where it stands today. due: the day it is due, today or before."""

    set: TestSet
    standing: Standing

    @property
    def due(self) -> date | None:
        return self.standing.due


@transaction.atomic
def make_set(programme: Programme, by: Person | None, **described: Any) -> TestSet:
    """A new set: name, asked, rhythm, begins, lead, companion, case."""
    made = TestSet.objects.create(programme=programme, **described)
    seals = [revise(made, by, made.as_plain(), None)]
    record(programme, by, "set.made", made, name=made.name, seals=seals)
    return made


@transaction.atomic
def change_set(changed: TestSet, by: Person, **described: Any) -> bool:
    """Change what is said of a set; False where nothing differs."""
    before = changed.as_plain()
    for name, value in described.items():
        setattr(changed, name, value)
    after = changed.as_plain()
    names = [name for name in before if before[name] != after[name]]
    if not names:
        return False
    changed.save()
    was, now = ({name: side[name] for name in names} for side in (before, after))
    seals = [revise(changed, by, after, clock.now())]
    record(changed.programme, by, "set.changed", changed, before=was, after=now, seals=seals)
    return True


def call_out(called: TestSet, by: Person) -> None:
    """It has rained, the thaw has come, the service is on: the set is due from today on."""
    change_set(called, by, called_on=timezone.localdate(clock.now()))


def asked_by(asking: TestSet, points: Sequence[Point]) -> list[Asked]:
    """What a set asks at these of its points."""
    asked = [Asked(point, tuple(asking.methods_at(point.pk))) for point in points]
    return [one for one in asked if one.methods]


def begin_set(begun: TestSet, person: Person, points: Sequence[Point], due: date | None) -> Visit:
    """The visit of a set. points: those of the set; due: the day of the rhythm it is done for."""
    asked = asked_by(begun, points)
    return begin_visit(begun.programme, person, asked, prepared_for(begun, due))


def prepared_for(begun: TestSet, due: date | None) -> Prepared:
    """What a set says of its visits before they begin."""
    return Prepared(begun, due, None, begun.companion, begun.case)


def today_of(sets: Iterable[TestSet], today: date) -> list[SetToday]:
    """Each set with where it stands, what is due first. The sets have their days done."""
    found = [SetToday(one, _standing(one, set(one.days_done), today)) for one in sets]
    return sorted(found, key=lambda one: (one.due is None, one.due or date.max, _next(one)))


def _next(one: SetToday) -> date:
    return one.standing.following or date.max


def _standing(one: TestSet, done: set[date], today: date) -> Standing:
    if one.called_on is not None and not one.when.rule:
        return Standing(one.called_on if one.called_on not in done else None, None)
    return standing_of(one.when, one.begins, done, today)
