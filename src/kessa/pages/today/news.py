"""What Today lists: what is new, and the newest result of each point."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from itertools import chain
from operator import itemgetter

from django.db.models import F

from kessa.pages.points.latest import Line, newest_lines
from kessa.places.models import Point
from kessa.platform import clock
from kessa.platform.models import Programme
from kessa.results.models import LatestResult
from kessa_core.trends.news import IN_A_ROW

MOST_NEWS, MOST_OTHERS = 8, 3
"""Points that have news, and what else is listed of each."""
NEWS_DAYS = 60
"""A result that is older is no news any more, whatever it says."""
NO_NEWS = 5
MOST_NEWEST = 6


@dataclass(frozen=True)
class News:
    """What is new at one point: the line that weighs most, and the others that are news there."""

    line: Line
    others: list[Line]


@dataclass(frozen=True)
class Overview:
    """news: outside a limit, too close to call, not as usual, or moving. points: each with its
    newest line. newest: the evaluations of the newest results, whatever they say."""

    news: list[News]
    points: list[tuple[Point, Line | None]]
    newest: list[int]


def overview(programme: Programme, points: Sequence[Point], most: int) -> Overview:
    """Today's lines, in three queries: one over the projection, one for those that are shown, one
    for their verdicts. points: those that were read; *most* of them are listed."""
    kept = LatestResult.objects.of(programme).order_by("-sampled_at", "pk")
    codes = kept.annotate(code=F("result__outcome_code"))
    columns = ("pk", "point_id", "result__current_id", "code", "news__slip", "news__count",
               "unusual", "moving", "sampled_at")  # fmt: skip
    every = list(codes.values_list(*columns))
    since = clock.now() - timedelta(days=NEWS_DAYS)
    told = [(_rank(*marks), pk, point) for pk, point, _, *marks, at in every if at > since]
    news: dict[int, list[int]] = {}
    for rank, pk, point_id in sorted(told, key=itemgetter(0)):
        if rank < NO_NEWS:
            news.setdefault(point_id, []).append(pk)
    leading = [numbers[: 1 + MOST_OTHERS] for numbers in list(news.values())[:MOST_NEWS]]
    newest = [evaluation for _, _, evaluation, *_ in every[:MOST_NEWEST]]
    of_point: dict[int, int] = {}
    for pk, point_id, *_ in every:
        of_point.setdefault(point_id, pk)
    listed = points[:most]
    shown = [of_point.get(point.pk) for point in listed]
    wanted = [*chain.from_iterable(leading), *(pk for pk in shown if pk)]
    lines = newest_lines(programme, wanted, points)
    return Overview(
        [News(lines[first], [lines[pk] for pk in others]) for first, *others in leading],
        [(point, lines.get(pk or 0)) for point, pk in zip(listed, shown, strict=True)],
        newest,
    )


def _rank(code: str, slip: float, in_a_row: int, unusual: bool, moving: bool) -> int:
    """What comes first: outside a limit, a likely slip, not as usual for long, not as usual or
    moving, and what is too close to call as it always is."""
    lasts = in_a_row >= IN_A_ROW
    close = code == "close"
    marks = (code == "beyond", bool(slip), lasts or (unusual and close), unusual or moving, close)
    return (*marks, True).index(True)
