"""What Today lists: what is new, and the newest result of each point."""

from dataclasses import dataclass
from datetime import timedelta
from itertools import chain
from operator import attrgetter

from kessa.pages.points.latest import Line, newest_lines
from kessa.pages.points.ranking import NO_NEWS, leading, ranked
from kessa.places.models import Point
from kessa.platform import clock
from kessa.platform.models import Programme
from kessa.results.models import LatestResult

READ_AT_ONCE = 40
"""Points that the newest results may be of, read in one query with those that are listed."""
MOST_NEWS, MOST_OTHERS = 8, 3
"""Points that have news, and what else is listed of each."""
NEWS_DAYS = 60
"""A result that is older is no news any more, whatever it says."""
MOST_NEWEST = 6


@dataclass(frozen=True)
class News:
    """What is new at one point: the line that weighs most, and the others that are news there."""

    line: Line
    others: list[Line]


@dataclass(frozen=True)
class Overview:
    """news: outside a limit, too close to call, not as usual, or moving. points: the first ones,
    each with the line that weighs most there; more: whether there are others. read: the points that
    were read. newest: the evaluations of the newest results."""

    news: list[News]
    points: list[tuple[Point, Line | None]]
    more: bool
    read: list[Point]
    newest: list[int]


def overview(programme: Programme, most: int) -> Overview:
    """Today's lines, in four queries: one over the projection, one for the points, one for the
    lines that are shown, one for their verdicts. *most*: points that are listed."""
    every = ranked(LatestResult.objects.of(programme))
    since = (clock.now() - timedelta(days=NEWS_DAYS)).timestamp()
    told = [one for one in every if one.at > since and one.rank < NO_NEWS]
    news: dict[int, list[int]] = {}
    for one in sorted(told, key=attrgetter("rank")):
        news.setdefault(one.point_id, []).append(one.pk)
    leads = [numbers[: 1 + MOST_OTHERS] for numbers in list(news.values())[:MOST_NEWS]]
    of_point = leading(every)
    points = list(Point.objects.of(programme).for_lists()[:READ_AT_ONCE])
    listed = points[:most]
    shown = [of_point[point.pk].pk if point.pk in of_point else 0 for point in listed]
    wanted = [*chain.from_iterable(leads), *(pk for pk in shown if pk)]
    lines = newest_lines(programme, wanted, points)
    return Overview(
        [News(lines[first], [lines[pk] for pk in others]) for first, *others in leads],
        [(point, lines.get(pk)) for point, pk in zip(listed, shown, strict=True)],
        len(points) > most,
        points,
        [one.evaluation for one in every[:MOST_NEWEST]],
    )
