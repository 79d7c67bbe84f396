"""The history of one parameter at a point as a drawing: coordinates only, the template draws."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime

from kessa.pages.points.chart_axis import allowed_span, axis_of
from kessa.pages.points.chart_band import band_ends, band_path
from kessa.pages.points.chart_frame import Frame
from kessa.pages.points.chart_marks import (
    EVENT_SHAPES,
    SHAPES,
    Dot,
    EventMark,
    Marks,
    dot_of,
    event_marks,
    marks_of,
)
from kessa.pages.points.events import ChartEvent
from kessa.results.history import Past
from kessa_core.judging import Limit
from kessa_core.trends.usual import Normal
from kessa_core.trends.words import day_words

LABEL_GAP = 17.0
MOST_LETTERS = 15
"""Of a label at the right end."""


@dataclass(frozen=True)
class Label:
    """A text at the right end or on an axis."""

    at: float
    text: str
    kind: str = ""


@dataclass(frozen=True)
class Chart:
    """Everything the template draws."""

    dots: tuple[Dot, ...]
    marks: tuple[Marks, ...]
    pair: str
    limits: tuple[float, ...]
    allowed: tuple[float, float] | None
    band: str
    left_usual: Label | None
    right: tuple[Label, ...]
    levels: tuple[Label, ...]
    months: tuple[Label, ...]
    events: tuple[EventMark, ...]
    frame: Frame

    @property
    def legend(self) -> list[EventMark]:
        """A mark of each kind of event that is drawn."""
        drawn = {mark.kind: mark for mark in self.events}
        return [drawn[kind] for kind in EVENT_SHAPES if kind in drawn]

    @property
    def newest(self) -> Dot:
        return self.dots[-1]

    @property
    def allowed_height(self) -> float:
        """What every limit allows, from its upper end down."""
        return self.allowed[1] - self.allowed[0] if self.allowed else 0.0

    @property
    def without_a_figure(self) -> int:
        """How many results are bounds, drawn as open marks."""
        return sum(dot.is_bound for dot in self.dots)


@dataclass(frozen=True)
class Drawn:
    """What a chart shows beside the results themselves. usual: at any time of the year; since: when
    it left that, where it has lasted; pair: the other point's history and name."""

    limits: Sequence[Limit] = ()
    usual: Normal | None = None
    since: datetime | None = None
    pair: Sequence[Past] = ()
    pair_name: str = ""
    events: Sequence[ChartEvent] = ()
    decimals: int = 0


def draw(seen: Sequence[Past], drawn: Drawn, frame: Frame) -> Chart | None:
    """The chart of *seen* (oldest first), or None with fewer than two results."""
    if len(seen) < 2:
        return None
    first, last = seen[0].at.timestamp(), seen[-1].at.timestamp()
    events = [event for event in drawn.events if first <= event.at.timestamp() <= last]
    if events:
        frame = frame.with_events()
    inside = [s for s in drawn.pair if first <= s.at.timestamp() <= last]
    ends = band_ends(seen, drawn.usual)
    axis = axis_of(seen, inside, ends, drawn.limits)
    across, up = frame.plot_width / max(last - first, 1.0), (frame.floor - frame.top) / axis.span

    left, floor, bottom, top = frame.left, frame.floor, axis.bottom, axis.top

    def x(at: datetime) -> float:
        return left + (at.timestamp() - first) * across

    def y(number: float) -> float:
        return floor - (min(max(number, bottom), top) - bottom) * up

    dots = tuple(dot_of(s, x, y) for s in seen)
    bounds = [
        (name, float(end), str(end))
        for limit in axis.near
        for name, end in ((limit.name, limit.min), (limit.name, limit.max))
        if end is not None and axis.bottom <= float(end) <= axis.top
    ]
    labels = [Label(y(number), _limit_label(name, said)) for name, number, said in bounds]
    labels.append(Label(dots[-1].y, seen[-1].text(drawn.decimals), "now"))
    if ends:
        low, high = ends[-1]
        labels.append(Label(y((low + high) / 2), "usual", "soft"))
    if inside:
        labels.append(Label(y(inside[-1].number), drawn.pair_name, "soft"))
    since = drawn.since if drawn.since and first <= drawn.since.timestamp() <= last else None
    return Chart(
        dots,
        tuple(marks_of(sign, [dot for dot in dots if dot.sign == sign]) for sign in SHAPES),
        " ".join(f"{x(s.at):.1f},{y(s.number):.1f}" for s in inside),
        tuple(y(number) for _, number, _ in bounds),
        allowed_span(axis, y),
        band_path(seen, ends, x, y),
        Label(x(since), f"left its usual, {day_words(since, seen[-1].at)}") if since else None,
        _apart(labels),
        tuple(Label(y(level), f"{level:g}".replace("-", "−")) for level in axis.levels),
        tuple(_months(seen[0].at, seen[-1].at, x, 6 if frame.plot_width < 400 else 3)),
        event_marks(events, x),
        frame,
    )


def _limit_label(name: str, figure: str) -> str:
    """A limit's name and figure, of a long name as many words as fit beside the chart."""
    words = name.split()
    while words and len(" ".join([*words, figure])) > MOST_LETTERS:
        words.pop()
    return " ".join([*words, figure])


def _apart(labels: list[Label]) -> tuple[Label, ...]:
    """Labels pushed down so that none covers another."""
    placed: list[Label] = []
    for label in sorted(labels, key=lambda label: label.at):
        at = max(label.at, placed[-1].at + LABEL_GAP) if placed else label.at
        placed.append(Label(at, label.text, label.kind))
    return tuple(placed)


def _months(
    first: datetime, last: datetime, x: Callable[[datetime], float], every: int
) -> list[Label]:
    labels = []
    year, month = first.year, first.month
    while (year, month) < (last.year, last.month):
        year, month = (year + 1, 1) if month == 12 else (year, month + 1)
        at = first.replace(year=year, month=month, day=1)
        if month % every == 1 and first <= at <= last:
            text = f"{at:%b}" if month != 1 else f"{at:%b %Y}"
            labels.append(Label(x(at), text))
    return labels
