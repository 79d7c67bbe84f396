"""The marks of a chart: results, and the events under it."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from kessa.pages.points.events import ChartEvent, key_of
from kessa.results.history import Past

EVENT_GAP = 9.0


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
    key: str

    @property
    def shape(self) -> str:
        return EVENT_SHAPES[self.kind]

    @property
    def is_filled(self) -> bool:
        return self.kind in FILLED


def dot_of(s: Past, x: Callable[[datetime], float], y: Callable[[float], float]) -> Dot:
    if s.qualifier == "<":
        return Dot(x(s.at), y(s.number), y(0.0), y(s.number), s.code, is_bound=True)
    if s.qualifier == ">":
        return Dot(x(s.at), y(s.number), y(s.number), 0.0, s.code, is_bound=True)
    return Dot(x(s.at), y(s.number), y(s.low), y(s.high), s.code)


def marks_of(sign: str, dots: Sequence[Dot]) -> Marks:
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


def event_marks(
    events: Sequence[ChartEvent], x: Callable[[datetime], float]
) -> tuple[EventMark, ...]:
    """A mark for each event; those that would lie on one another share the mark of the first."""
    made: list[EventMark] = []
    for event in events:
        place, words = x(event.at), f"{event.at:%-d %b}: {event.words}"
        if made and place - made[-1].x < EVENT_GAP:
            made[-1] = replace(made[-1], words=f"{made[-1].words}; {words}")
        else:
            made.append(EventMark(place, event.kind, words, key_of(event)))
    return tuple(made)
