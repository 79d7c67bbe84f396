"""Which of the newest results weigh most, read from the projection alone."""

from collections.abc import Iterable
from dataclasses import dataclass

from django.db.models import F, FloatField, Func, Value

from kessa.results.queries import LatestQuery
from kessa_core.trends.news import IN_A_ROW

NO_NEWS = 5
COLUMNS = (
    "pk", "point_id", "result__current_id", "at", "code", "news__slip", "news__count", "unusual",
    "moving",
)  # fmt: skip


@dataclass(frozen=True)
class Ranked:
    """One newest result: the number of its projection, its point and evaluation. at: when it was
    sampled, in seconds since 1970, which are read much faster than times; rank: 0 for what weighs
    most, NO_NEWS for what is as it always was."""

    pk: int
    point_id: int
    evaluation: int
    at: float
    code: str
    rank: int

    @property
    def weight(self) -> tuple[int, float, bool]:
        """The less, the sooner it is named: by rank, then the newer, then with a limit."""
        return self.rank, -self.at, self.code == "none"


def ranked(latest: LatestQuery) -> list[Ranked]:
    """These newest results, the newest sampled first; in one query."""
    seconds = Func(Value("epoch"), F("sampled_at"), function="date_part", output_field=FloatField())
    newest = latest.annotate(at=seconds, code=F("result__outcome_code"))
    rows = newest.order_by("-sampled_at", "pk").values_list(*COLUMNS)
    return [
        Ranked(pk, point, evaluation, at, code, rank_of(code, *marks))
        for pk, point, evaluation, at, code, *marks in rows
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
