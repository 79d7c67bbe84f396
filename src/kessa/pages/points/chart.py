"""The history of one parameter at a point as a drawing: coordinates only, the template draws."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from kessa.pages.points.events import ChartEvent
from kessa.results.history import Past
from kessa.ui.ticks import round_step
from kessa_core.judging import Limit
from kessa_core.quantities.rounding import figure
from kessa_core.trends.usual import Usual

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
    """Every result of one sign as three paths: whiskers, marks, and the rings about them."""

    sign: str
    whiskers: str
    marks: str
    rings: str


EVENT_SHAPES = {
    "rain": "m0-5q4 6.5 0 9q-4-2.5 0-9z",
    "heavy rain": "m-3.5-5q4 6.5 0 9q-4-2.5 0-9zm7 0q4 6.5 0 9q-4-2.5 0-9z",
    "snow": "m-4 0h8m-4-4v8m-3-7l6 6m0-6l-6 6",
    "thaw": "m-4-5h8m-4 2q4 5 0 7q-4-2 0-7z",
    "not sampled": "m-3.5 0a3.5 3.5 0 1 0 7 0a3.5 3.5 0 1 0-7 0z",
    "new lot": "m-3.5 4v-5l2-1.5v-2h3v2l2 1.5v5z",
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
    band: tuple[float, float] | None
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
        """From the lowest limit down to the floor."""
        return self.frame.floor - max(self.limits)

    @property
    def allowed_top(self) -> float:
        return max(self.limits)

    @property
    def band_height(self) -> float:
        return self.band[1] - self.band[0] if self.band else 0.0


def draw(
    seen: Sequence[Past],
    pair: Sequence[Past],
    limits: Sequence[Limit],
    usual: Usual | None,
    decimals: int,
    frame: Frame,
    pair_name: str = "",
    events: Sequence[ChartEvent] = (),
) -> Chart | None:
    """The chart of *seen* (oldest first), or None with fewer than two results."""
    if len(seen) < 2:
        return None
    first, last = seen[0].at.timestamp(), seen[-1].at.timestamp()
    events = [event for event in events if first <= event.at.timestamp() <= last]
    if events:
        frame = frame.with_events()
    span = max(last - first, 1.0)
    reach = max(max(s.high for s in seen), usual.band.high or 0 if usual else 0)
    near = [limit for limit in limits if limit.max and float(limit.max) <= reach * 2.2]
    top = max([reach, 0.0, *(float(limit.max or 0) for limit in near)]) * 1.06 or 1.0

    left, floor = frame.left, frame.floor
    across, up = frame.plot_width / span, (frame.floor - frame.top) / top

    def x(at: datetime) -> float:
        return left + (at.timestamp() - first) * across

    def y(number: float) -> float:
        return floor - number * up

    dots = tuple(Dot(x(s.at), y(s.number), y(s.low), y(s.high), s.code) for s in seen)
    inside = [s for s in pair if first <= s.at.timestamp() <= last]
    labels = [Label(y(float(limit.max or 0)), f"{limit.name} {limit.max}") for limit in near]
    labels.append(Label(dots[-1].y, figure(seen[-1].number, decimals), "now"))
    if usual:
        labels.append(Label(y(usual.median), "usual", "soft"))
    if inside:
        labels.append(Label(y(inside[-1].number), pair_name, "soft"))
    return Chart(
        dots,
        tuple(_marks(sign, [dot for dot in dots if dot.sign == sign]) for sign in SHAPES),
        " ".join(f"{x(s.at):.1f},{y(s.number):.1f}" for s in inside),
        tuple(y(float(limit.max or 0)) for limit in near),
        (y(usual.band.high or 0), y(usual.band.low or 0)) if usual else None,
        _apart(labels),
        tuple(Label(y(level), f"{level:g}") for level in _levels(top)),
        tuple(_months(seen[0].at, seen[-1].at, x, 6 if frame.plot_width < 400 else 3)),
        _event_marks(events, x),
        frame,
    )


def _marks(sign: str, dots: Sequence[Dot]) -> Marks:
    """A page draws hundreds of results, so those of one sign share a path."""
    places = [f"M{dot.x:.1f} {dot.y:.1f}" for dot in dots]
    return Marks(
        sign,
        "".join(f"M{dot.x:.1f} {dot.y_low:.1f}V{dot.y_high:.1f}" for dot in dots),
        "".join(place + SHAPES[sign] for place in places),
        "".join(place + RING for place in places) if sign == "close" else "",
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


def _levels(top: float) -> list[float]:
    step = round_step(top / 5)
    return [step * n for n in range(int(top / step) + 1)]


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
