"""What the pages of waters show, gathered in a fixed number of queries."""

from collections import defaultdict
from dataclasses import dataclass, field
from typing import Any

from kessa.accounts.models import Programme
from kessa.log.models import Result
from kessa.log.setting import limits_of
from kessa.ui.gauges import Drawn, draw
from kessa.waters import chart
from kessa.waters.models import Point
from kessa_core.quantities import Value
from kessa_core.trends.usual import Usual, against, usual


@dataclass
class Line:
    """One parameter at one point: its newest result with gauge, usual, and how it stands to it."""

    point: Point
    result: Result
    value: Value
    gauge: Drawn
    usual: Usual | None
    stands: str
    history: list[Result] = field(default_factory=list)

    @property
    def name(self) -> str:
        return str(self.result.name)

    @property
    def usual_text(self) -> str:
        return self.usual.text(self.value.decimals) if self.usual else ""

    @property
    def is_news(self) -> bool:
        """Beyond a limit or too close to call, or away from the place's normal."""
        sign = self.result.current.sign
        return sign in ("close", "beyond") or self.stands not in ("", "as usual here")


def lines_of(programme: Programme, points: list[Point]) -> list[Line]:
    """The newest line of every parameter at these points, and of every unit and basis it is
    reported in; one query for all of them."""
    grouped: dict[tuple[int, str, str, str], list[Result]] = defaultdict(list)
    results = (
        Result.objects.of(programme)
        .filter(point__in=points, current__number__isnull=False)
        .standing()
        .select_related("current", "run__sample")
        .newest_first()
    )
    for result in results:
        e = result.current
        grouped[result.point_id, result.parameter, e.unit, e.basis].append(result)
    by_id = {point.pk: point for point in points}
    lines = [_line(by_id[point_id], history) for (point_id, *_), history in grouped.items()]
    return sorted(lines, key=lambda line: (line.point.water_id, line.point.order, line.name))


def _line(point: Point, history: list[Result]) -> Line:
    newest = history[0]
    value = newest.current.value_of(newest.parameter)
    held = limits_of(point)
    limits = held.of(value.quantity) if held else ()
    earlier = [r.current.number for r in history[1:] if r.current.finish == "done"]
    normal = usual(earlier)
    words = newest.current.sign
    return Line(
        point,
        newest,
        value,
        draw(value, limits, newest.current.sign or "none", words, normal.band if normal else None),
        normal,
        against(value.number, normal) if normal and not value.qualifier else "",
        history,
    )


def chart_of(line: Line, pair: Line | None, frame: chart.Frame) -> chart.Chart | None:
    """The chart of a line's history, with its pair's, in a frame."""
    held = limits_of(line.point)
    limits = held.of(line.value.quantity) if held else ()
    pair_name = pair.point.name if pair else ""
    return chart.draw(
        _seen(line),
        _seen(pair) if pair else [],
        limits,
        line.usual,
        line.value.decimals,
        frame,
        pair_name,
    )


def _seen(line: Line) -> list[chart.Seen]:
    seen: list[Any] = []
    for result in reversed(line.history):
        e = result.current
        high = e.number if e.high is None else e.high
        seen.append(chart.Seen(result.sampled_at, e.number, e.low or 0.0, high, e.sign or "none"))
    return seen


def news_sentence(line: Line, pair: Line | None) -> str:
    """What is new at a point, in one sentence."""
    told = [f"{line.name} is {line.value.text}"]
    if line.usual:
        told[0] += f"; usual here is {line.usual_text}"
        if line.stands not in ("", "as usual here"):
            told[0] += f", so this is {line.stands}"
    if pair and pair.result.sampled_at.date() == line.result.sampled_at.date():
        told.append(f"{pair.point.name[:1].upper()}{pair.point.name[1:]} it was {pair.value.text}")
    return ". ".join(told) + "."
