"""A water as a drawing: a stream as a line with its points in order of flow, a plant or a supply as
boxes with arrows. Coordinates only, the template draws."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from kessa.pages.points.latest import Line
from kessa.places.models import Point, Water

Kind = Water.Kind
FLOWING = (Kind.STREAM,)
WIDTH, MARGIN = 912.0, 24.0
MOST = 5
"""Points that fit beside one another; of more there is no drawing."""
ORDER = (
    "upstream", "raw", "mains", "make-up", "feed", "boiler", "circulating", "system", "treated",
    "tap", "downstream", "condensate",
)  # fmt: skip
"""Parts in the order in which water runs through them."""
BACK = "condensate"
"""The part that runs back to where the line began."""


@dataclass(frozen=True)
class Place:
    """A point on the drawing: its middle, what is news there (its lines that are), the sign."""

    point: Point
    x: float
    y: float
    lines: list[Line]
    width: float

    @property
    def sign(self) -> str:
        """The sign of what weighs most here."""
        return self.lines[0].code if self.lines else "none"

    @property
    def left(self) -> float:
        return self.x - self.width / 2


@dataclass(frozen=True)
class Scheme:
    """The drawing. is_stream: a line instead of boxes; arrows: from x to x; back: from the last box
    to the first."""

    places: list[Place]
    height: float
    is_stream: bool
    arrows: list[tuple[float, float]]
    back: tuple[float, float] | None

    @property
    def label(self) -> str:
        """What is drawn, in words."""
        what = "The points in order of flow" if self.is_stream else "The parts in order"
        return f"{what}: {', '.join(place.point.name for place in self.places)}"

    @property
    def width(self) -> float:
        return WIDTH

    @property
    def line_y(self) -> float:
        return LINE_Y


LINE_Y, BOX = 46.0, 204.0
HEIGHT = 132.0
"""Where the line runs, how wide a box is at most, and the height of the drawing."""


def scheme_of(water: Water, points: Sequence[Point], lines: Sequence[Line]) -> Scheme | None:
    """The drawing of a water; None with one point, or with more than fit."""
    if not 2 <= len(points) <= MOST:
        return None
    of_point: dict[int, list[Line]] = {point.pk: [] for point in points}
    for line in sorted(lines, key=lambda one: one.weight):
        of_point[line.point.pk].append(line)
    flowing = sorted(points, key=_runs)
    box = min(BOX, (WIDTH - 2 * MARGIN) / len(flowing) - 18)
    step = (WIDTH - 2 * MARGIN) / len(flowing)
    places = [
        Place(point, MARGIN + step * (n + 0.5), LINE_Y, of_point[point.pk], box)
        for n, point in enumerate(flowing)
    ]
    is_stream = water.kind in FLOWING
    gap = 0.0 if is_stream else box / 2
    arrows = [(one.x + gap, other.x - gap) for one, other in pairwise(places)]
    last = places[-1]
    back = (last.x, places[0].x) if last.point.part == BACK and not is_stream else None
    return Scheme(places, HEIGHT, is_stream, arrows, back)


def _runs(point: Point) -> tuple[int, int]:
    """Where a point lies in the flow: by its part, else as the points are ordered."""
    known = ORDER.index(point.part) if point.part in ORDER else ORDER.index("system")
    return known, point.order
