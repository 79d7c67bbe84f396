"""Which of the newest results weigh most, read from the projection alone."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from django.db.models import F

from kessa.results.queries import LatestQuery
from kessa_core.trends.news import IN_A_ROW

NO_NEWS = 5
COLUMNS = (
    "pk", "point_id", "result__current_id", "sampled_at", "code", "news__slip", "news__count",
    "unusual", "moving",
)  # fmt: skip


@dataclass(frozen=True)
class Ranked:
    """One newest result: the number of its projection, its point and evaluation, when it was
    sampled. rank: 0 for what weighs most, NO_NEWS for what is as it always was."""

    pk: int
    point_id: int
    evaluation: int
    sampled_at: datetime
    code: str
    rank: int

    @property
    def weight(self) -> tuple[int, float, bool]:
        """The less, the sooner it is named: by rank, then the newer, then with a limit."""
        return self.rank, -self.sampled_at.timestamp(), self.code == "none"


def ranked(latest: LatestQuery) -> list[Ranked]:
    """These newest results, the newest sampled first; in one query."""
    rows = latest.annotate(code=F("result__outcome_code")).order_by("-sampled_at", "pk")
    return [
        Ranked(pk, point, evaluation, at, code, rank_of(code, *marks))
        for pk, point, evaluation, at, code, *marks in rows.values_list(*COLUMNS)
    ]


def leading(found: Iterable[Ranked]) -> dict[int, Ranked]:
    """Of each point the result that weighs most."""
    first: dict[int, Ranked] = {}
    for one in sorted(found, key=lambda one: one.weight):
        first.setdefault(one.point_id, one)
    return first


def rank_of(code: str, slip: float, in_a_row: int, unusual: bool, moving: bool) -> int:
    """What comes first: outside a limit, a likely slip, not as usual for long, not as usual or
    moving, and what is too close to call as it always is."""
    lasts = in_a_row >= IN_A_ROW
    close = code == "close"
    marks = (code == "beyond", bool(slip), lasts or (unusual and close), unusual or moving, close)
    return (*marks, True).index(True)
