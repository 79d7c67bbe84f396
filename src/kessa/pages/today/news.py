"""What Today lists: what is new, and the newest result of each point."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.db.models import F

from kessa.pages.points.latest import Line, newest_lines
from kessa.places.models import Point
from kessa.platform.models import Programme
from kessa.results.models import LatestResult

MOST_NEWS = 8
MOST_NEWEST = 6


@dataclass(frozen=True)
class Overview:
    """news: outside a limit, too close to call, or unusual. points: each with its newest line.
    newest: the newest lines whatever they say."""

    news: list[Line]
    points: list[tuple[Point, Line | None]]
    newest: list[Line]


def overview(programme: Programme, points: Sequence[Point], most: int) -> Overview:
    """Today's lines, in three queries: one over the projection, one for those that are shown, one
    for their verdicts. points: those that were read; *most* of them are listed."""
    kept = LatestResult.objects.of(programme).order_by("-sampled_at", "pk")
    codes = kept.annotate(code=F("result__outcome_code"))
    every = list(codes.values_list("pk", "point_id", "unusual", "code"))
    news = [pk for pk, _, unusual, code in every if unusual or code in ("close", "beyond")]
    newest = [pk for pk, *_ in every[:MOST_NEWEST]]
    of_point: dict[int, int] = {}
    for pk, point_id, *_ in every:
        of_point.setdefault(point_id, pk)
    listed = points[:most]
    shown = [of_point.get(point.pk) for point in listed]
    wanted = [*news[:MOST_NEWS], *newest, *(pk for pk in shown if pk)]
    lines = newest_lines(programme, wanted, points)
    return Overview(
        [lines[pk] for pk in news[:MOST_NEWS]],
        [(point, lines.get(pk or 0)) for point, pk in zip(listed, shown, strict=True)],
        [lines[pk] for pk in newest],
    )
