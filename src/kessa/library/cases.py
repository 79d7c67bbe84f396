"""Filling cases, and what a visit has at hand with one of them."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from kessa.library.models import KitCase
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.models import Person, Programme
from kessa.platform.revisions import revise

PARTS = ("lots", "instruments")


@dataclass(frozen=True)
class AtHand:
    """Which of a programme's lots, or instruments, somebody has along. mine: what is in their case;
    others: what is in other cases."""

    mine: frozenset[int] = frozenset()
    others: frozenset[int] = frozenset()

    def nearness(self, number: int) -> int:
        """2 in their case, 1 in none, 0 in another one."""
        if number in self.mine:
            return 2
        return 0 if number in self.others else 1


@dataclass(frozen=True)
class Along:
    """What somebody has along."""

    lots: AtHand
    instruments: AtHand


def things_along(programme_id: int, case_id: int | None) -> Along:
    """What somebody with this case (None: without one) has along; one query."""
    cases = list(KitCase.objects.of(programme_id).in_use())
    return Along(*(_at_hand(cases, case_id, part) for part in PARTS))


def _at_hand(cases: Sequence[KitCase], case_id: int | None, part: str) -> AtHand:
    mine: set[int] = set()
    others: set[int] = set()
    for case in cases:
        (mine if case.pk == case_id else others).update(getattr(case, part))
    return AtHand(frozenset(mine), frozenset(others))


def case_choices(programme: Programme) -> list[tuple[str, str]]:
    """The cases to choose from."""
    return [(str(one.pk), str(one)) for one in KitCase.objects.of(programme).in_use()]


@transaction.atomic
def make_case(programme: Programme, by: Person | None, **described: Any) -> KitCase:
    """A new case: name, held_by_id, lots, instruments. What it holds leaves its other case."""
    made = KitCase.objects.create(programme=programme, **described)
    _leave_others(made, by)
    seals = [revise(made, by, said_of(made), None)]
    record(programme, by, "case.made", made, name=made.name, seals=seals)
    return made


@transaction.atomic
def change_case(changed: KitCase, by: Person | None, **described: Any) -> bool:
    """Change what is said of a case; False where nothing differs. What it holds leaves its other
    case."""
    differs = _store(changed, by, described)
    if differs:
        _leave_others(changed, by)
    return differs


def _store(changed: KitCase, by: Person | None, described: dict[str, Any]) -> bool:
    before = said_of(changed)
    for name, value in described.items():
        setattr(changed, name, value)
    after = said_of(changed)
    names = [name for name in after if before[name] != after[name]]
    if not names:
        return False
    changed.save()
    was, now = ({name: side[name] for name in names} for side in (before, after))
    seals = [revise(changed, by, after, clock.now())]
    record(changed.programme, by, "case.changed", changed, before=was, after=now, seals=seals)
    return True


def _leave_others(case: KitCase, by: Person | None) -> None:
    for other in KitCase.objects.of(case.programme_id).in_use().exclude(pk=case.pk):
        left = {part: _without(getattr(other, part), getattr(case, part)) for part in PARTS}
        _store(other, by, left)


def _without(held: Sequence[int], gone: Sequence[int]) -> list[int]:
    return [one for one in held if one not in gone]


def said_of(case: KitCase) -> dict[str, Any]:
    """What the revisions of a case keep."""
    return {
        "name": case.name,
        "held_by": case.held_by_id,
        "lots": case.lots,
        "instruments": case.instruments,
        "in_use": case.in_use,
    }
