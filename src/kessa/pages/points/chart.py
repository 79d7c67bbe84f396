"""The history of one parameter at a point as a drawing: coordinates only, the template draws."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from math import ceil, floor

from kessa.pages.points.events import ChartEvent
from kessa.results.history import Past
from kessa.ui.ticks import round_step
from kessa_core.judging import Limit
from kessa_core.quantities.rounding import figure
from kessa_core.trends.usual import Normal
from kessa_core.trends.words import day_words

LABEL_GAP = 17.0
EVENT_GAP = 9.0
EVENT_ROW = 20.0


@dataclass(frozen=True)
class Frame:
    """The drawing's size and margins."""

    width: float
    height: float
    left: float = 46.0
    right: float = 112.0
    top: float = 14.0
    bottom: float = 26.0

    @property
    def end(self) -> float:
        return self.width - self.right

    @property
    def floor(self) -> float:
        return self.height - self.bottom

    @property
    def months_y(self) -> float:
        return self.floor + 20

    @property
    def events_y(self) -> float:
        return self.floor + 36

    def with_events(self) -> "Frame":
        """The frame with a row for events under the months."""
        return replace(self, height=self.height + EVENT_ROW, bottom=self.bottom + EVENT_ROW)

    @property
    def plot_width(self) -> float:
        return self.end - self.left

    @property
    def label_x(self) -> float:
        return self.end + 14

    @property
    def level_x(self) -> float:
        return self.left - 8


FRAMES = {"wide": Frame(912.0, 250.0), "phone": Frame(358.0, 250.0, left=34.0, right=104.0)}


@dataclass(frozen=True)
class Dot:
    """A result's place: centre, whisker ends, sign."""

    x: float
    y: float
    y_low: float
    y_high: float
    sign: str
    is_bound: bool = False


SHAPES = {
    "within": "m-3.6 0a3.6 3.6 0 1 0 7.2 0a3.6 3.6 0 1 0-7.2 0z",
    "close": "m0-4.2a4.2 4.2 0 0 1 0 8.4z",
    "beyond": "m0-5.2l5.2 5.2-5.2 5.2-5.2-5.2z",
    "none": "m-3.2-3.2h6.4v6.4h-6.4z",
}
"""The mark of each verdict by shape, as on the gauge; half a disc lies in a ring."""
RING = "m-4.2 0a4.2 4.2 0 1 0 8.4 0a4.2 4.2 0 1 0-8.4 0z"


@dataclass(frozen=True)
class Marks:
    """Every result of one sign as paths: whiskers, marks, the rings about them, and the open marks
    of those that are only known to be below or above a figure."""

    sign: str
    whiskers: str
    marks: str
    rings: str
    bounds: str


EVENT_SHAPES = {
    "rain": "m0-5q4 6.5 0 9q-4-2.5 0-9z",
    "heavy rain": "m-3.5-5q4 6.5 0 9q-4-2.5 0-9zm7 0q4 6.5 0 9q-4-2.5 0-9z",
    "snow": "m-4 0h8m-4-4v8m-3-7l6 6m0-6l-6 6",
    "thaw": "m-4-5h8m-4 2q4 5 0 7q-4-2 0-7z",
    "not sampled": "m-3.5 0a3.5 3.5 0 1 0 7 0a3.5 3.5 0 1 0-7 0z",
    "new lot": "m-3.5 4v-5l2-1.5v-2h3v2l2 1.5v5z",
    "salt": "m-4-4h8v8h-8zm2 2h4v4h-4z",
    "dose": "m0-5v7m-3-3l3 4 3-4m-7 5h8",
    "repair": "m-4 4l5-5m-1-4a4 4 0 1 0 5 5l-3 0 0-3z",
    "cleaning": "m-4 0q2-4 4 0t4 0m-8 4q2-4 4 0t4 0",
    "spill": "m-4-4l8 8m0-8l-8 8",
    "other": "m0-5l5 9h-10z",
}
"""The mark of each kind of event under the chart."""
FILLED = ("rain", "heavy rain")
"""The kinds whose mark is filled; the others are outlines."""


@dataclass(frozen=True)
class EventMark:
    """What happened at one place of the time axis: its mark, kind and words."""

    x: float
    kind: str
    words: str

    @property
    def shape(self) -> str:
        return EVENT_SHAPES[self.kind]

    @property
    def is_filled(self) -> bool:
        return self.kind in FILLED


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
    ends = _band_ends(seen, drawn.usual)
    axis = _axis(seen, inside, ends, drawn.limits)
    across, up = frame.plot_width / max(last - first, 1.0), (frame.floor - frame.top) / axis.span

    def x(at: datetime) -> float:
        return frame.left + (at.timestamp() - first) * across

    def y(number: float) -> float:
        return frame.floor - (min(max(number, axis.bottom), axis.top) - axis.bottom) * up

    dots = tuple(_dot(s, x, y) for s in seen)
    bounds = [
        (name, float(end), str(end))
        for limit in axis.near
        for name, end in ((limit.name, limit.min), (limit.name, limit.max))
        if end is not None and axis.bottom <= float(end) <= axis.top
    ]
    labels = [Label(y(number), f"{name} {said}") for name, number, said in bounds]
    newest = seen[-1].qualifier + " " * bool(seen[-1].qualifier)
    labels.append(Label(dots[-1].y, newest + figure(seen[-1].number, drawn.decimals), "now"))
    if ends:
        low, high = ends[-1]
        labels.append(Label(y((low + high) / 2), "usual", "soft"))
    if inside:
        labels.append(Label(y(inside[-1].number), drawn.pair_name, "soft"))
    since = drawn.since if drawn.since and first <= drawn.since.timestamp() <= last else None
    return Chart(
        dots,
        tuple(_marks(sign, [dot for dot in dots if dot.sign == sign]) for sign in SHAPES),
        " ".join(f"{x(s.at):.1f},{y(s.number):.1f}" for s in inside),
        tuple(y(number) for _, number, _ in bounds),
        _allowed(axis, y),
        _band_path(seen, ends, x, y),
        Label(x(since), f"left its usual, {day_words(since, seen[-1].at)}") if since else None,
        _apart(labels),
        tuple(Label(y(level), f"{level:g}".replace("-", "−")) for level in axis.levels),
        tuple(_months(seen[0].at, seen[-1].at, x, 6 if frame.plot_width < 400 else 3)),
        _event_marks(events, x),
        frame,
    )


@dataclass(frozen=True)
class _Axis:
    """What the upright axis reaches over, and the limits that are near enough to be drawn."""

    bottom: float
    top: float
    near: tuple[Limit, ...]

    @property
    def span(self) -> float:
        return self.top - self.bottom

    @property
    def levels(self) -> list[float]:
        """Round levels, four or five of them."""
        step = round_step(self.span / 5)
        first = ceil(self.bottom / step - 1e-9)
        return [step * n for n in range(first, floor(self.top / step + 1e-9) + 1)]


FROM_NOUGHT = 0.45
"""An axis starts at nought unless everything lies above this share of its top."""
NEAR = 1.2
"""Limits are drawn that lie no further than this many times the highest result from the others."""


def _axis(
    seen: Sequence[Past],
    pair: Sequence[Past],
    ends: Sequence[tuple[float, float]],
    limits: Sequence[Limit],
) -> _Axis:
    figures = [s.low for s in seen if not s.qualifier] or [s.number for s in seen]
    lows = [*figures, *(s.number for s in pair), *(low for low, _ in ends)]
    highs = [*(s.high for s in seen), *(s.number for s in seen), *(s.number for s in pair)]
    highs += [high for _, high in ends]
    bottom, top = min(lows), max(highs)
    reach = NEAR * abs(top)
    near = tuple(limit for limit in limits if _bounds(limit, bottom - reach, top + reach))
    drawn = [one for limit in near for one in _bounds(limit, bottom - reach, top + reach)]
    bottom, top = min([bottom, *drawn]), max([top, *drawn])
    if 0 <= bottom < FROM_NOUGHT * top:
        return _Axis(0.0, top * 1.06 or 1.0, near)
    room = 0.06 * (top - bottom) or 0.5
    return _Axis(bottom - room, top + room, near)


def _bounds(limit: Limit, least: float, most: float) -> list[float]:
    """The ends of a limit that lie between two levels."""
    ends = [float(end) for end in (limit.min, limit.max) if end is not None]
    return [end for end in ends if least <= end <= most]


def _allowed(axis: _Axis, y: Callable[[float], float]) -> tuple[float, float] | None:
    """From where to where every drawn limit allows, the upper end first; None without a limit."""
    if not axis.near:
        return None
    least = max(float(one.min) if one.min is not None else axis.bottom for one in axis.near)
    most = min(float(one.max) if one.max is not None else axis.top for one in axis.near)
    return (y(most), y(least)) if most > least else None


BAND_POINTS = 40


def _band_ends(seen: Sequence[Past], usual: Normal | None) -> list[tuple[float, float]]:
    """The usual band at equal steps of the time that is drawn; one where it is the same always."""
    if usual is None:
        return []
    times = _steps(seen) if usual.wave else [seen[-1].at]
    bands = [usual.at(at).band for at in times]
    return [(band.low or 0.0, band.high or 0.0) for band in bands]


def _steps(seen: Sequence[Past]) -> list[datetime]:
    whole = seen[-1].at - seen[0].at
    return [seen[0].at + whole * n / BAND_POINTS for n in range(BAND_POINTS + 1)]


def _band_path(
    seen: Sequence[Past],
    ends: Sequence[tuple[float, float]],
    x: Callable[[datetime], float],
    y: Callable[[float], float],
) -> str:
    """The band as a closed path."""
    if not ends:
        return ""
    times = _steps(seen) if len(ends) > 1 else [seen[0].at, seen[-1].at]
    pairs = list(zip(times, ends if len(ends) > 1 else [*ends, *ends], strict=True))
    upper = [f"{x(at):.1f} {y(high):.1f}" for at, (_, high) in pairs]
    lower = [f"{x(at):.1f} {y(low):.1f}" for at, (low, _) in reversed(pairs)]
    return f"M{'L'.join([*upper, *lower])}Z"


def _dot(s: Past, x: Callable[[datetime], float], y: Callable[[float], float]) -> Dot:
    if s.qualifier == "<":
        return Dot(x(s.at), y(s.number), y(0.0), y(s.number), s.code, is_bound=True)
    if s.qualifier == ">":
        return Dot(x(s.at), y(s.number), y(s.number), 0.0, s.code, is_bound=True)
    return Dot(x(s.at), y(s.number), y(s.low), y(s.high), s.code)


def _marks(sign: str, dots: Sequence[Dot]) -> Marks:
    """A page draws hundreds of results, so those of one sign share a path."""
    seen = [dot for dot in dots if not dot.is_bound]
    places = [f"M{dot.x:.1f} {dot.y:.1f}" for dot in seen]
    return Marks(
        sign,
        "".join(f"M{dot.x:.1f} {dot.y_low:.1f}V{dot.y_high:.1f}" for dot in dots),
        "".join(place + SHAPES[sign] for place in places),
        "".join(place + RING for place in places) if sign == "close" else "",
        "".join(f"M{dot.x:.1f} {dot.y:.1f}{RING}" for dot in dots if dot.is_bound),
    )


def _event_marks(
    events: Sequence[ChartEvent], x: Callable[[datetime], float]
) -> tuple[EventMark, ...]:
    """A mark for each event; those that would lie on one another share the mark of the first."""
    made: list[EventMark] = []
    for event in events:
        place, words = x(event.at), f"{event.at:%-d %b}: {event.words}"
        if made and place - made[-1].x < EVENT_GAP:
            made[-1] = replace(made[-1], words=f"{made[-1].words}; {words}")
        else:
            made.append(EventMark(place, event.kind, words))
    return tuple(made)


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
