"""Judging again what was sampled at a water, by the limits in force then."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from uuid import uuid4

from django.db import transaction

from kessa.places.models import Water
from kessa.platform.audit import record
from kessa.platform.hashes import seal_of_many
from kessa.platform.models import Person, Programme
from kessa.results.models import Review
from kessa.verdicts.models import Verdict
from kessa.verdicts.rejudging import follow, judge_again, measured_at, periods_of


@dataclass(frozen=True)
class JudgedAgain:
    """How many evaluations have a new verdict, how many results another outcome, and how many of
    those went back to review."""

    judged: int
    changed: int
    reopened: int


def _untold(done: int, total: int) -> None:
    """Nobody follows how far it has come."""


@transaction.atomic
def judge_waters(
    programme: Programme,
    waters: Iterable[Water],
    by: Person | None,
    come_to: Callable[[int, int], None] = _untold,
) -> JudgedAgain:
    """Judge every result of these waters by the limits in force when it was sampled, each set in
    its newest edition. What is judged as before keeps its verdict; one audit entry for all.

    come_to: is told how many results of how many have been looked at, after each quantity.
    """
    batch, person = str(uuid4()), by.pk if by else None
    pieces = []
    for water in waters:
        periods = periods_of(water)
        pieces += [(periods, quantity, count) for quantity, count in measured_at(water)]
    total = sum(count for _, _, count in pieces)
    judged = done = 0
    for periods, quantity, count in pieces:
        come_to(done, total)
        for period in periods:
            judged += judge_again(period, quantity, batch, person)
        done += count
    come_to(done, total)
    if not judged:
        return JudgedAgain(0, 0, 0)
    changed, reopened = follow(programme.pk, batch, person)
    seals = [seal_of_many(Verdict, programme.pk, batch)]
    if reopened:
        seals.append(seal_of_many(Review, programme.pk, batch))
    said = {"judged": judged, "changed": changed, "reopened": reopened, "seals": seals}
    record(programme, by, "results.judged-again", programme, **said)
    return JudgedAgain(judged, changed, reopened)
