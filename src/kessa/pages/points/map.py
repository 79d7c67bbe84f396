"""Points on a map without tiles: where they lie to one another, north up, with a scale bar."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import cos, radians

from kessa.pages.points.latest import Line
from kessa.places.models import Point
from kessa.ui.ticks import round_step

WIDTH, HEIGHT, EDGE = 912.0, 340.0, 46.0
METRES_A_DEGREE = 111_195.0
"""Along a meridian, for a sphere of the Earth's mean radius."""
APART = 15.0
"""Labels nearer than this to one another are pushed down."""
LEAST_M = 200.0


@dataclass(frozen=True)
class Spot:
    """A point on the map, its newest line, and where its label stands."""

    point: Point
    line: Line | None
    x: float
    y: float
    label_y: float

    @property
    def sign(self) -> str:
        return self.line.code if self.line else "none"

    @property
    def is_right(self) -> bool:
        """Whether its label stands at its left, since the edge is near."""
        return self.x > WIDTH * 0.72

    @property
    def label_x(self) -> float:
        away = 14 + 0.9 * (self.label_y - self.y)
        return self.x + (-away if self.is_right else away)


@dataclass(frozen=True)
class PointMap:
    """The map. bar: the length of the scale bar on it, bar_words what that is on the ground."""

    spots: list[Spot]
    bar: float
    bar_words: str
    without: int

    @property
    def width(self) -> float:
        return WIDTH

    @property
    def height(self) -> float:
        return HEIGHT

    @property
    def bar_y(self) -> float:
        return HEIGHT - 16


def map_of(rows: Sequence[tuple[Point, Line | None]]) -> PointMap | None:
    """The map of the points that have coordinates; None where fewer than two have."""
    placed = [(p, line) for p, line in rows if p.latitude is not None and p.longitude is not None]
    if len(placed) < 2:
        return None
    lats = [point.latitude or 0.0 for point, _ in placed]
    lons = [point.longitude or 0.0 for point, _ in placed]
    middle = radians((min(lats) + max(lats)) / 2)
    wide = (max(lons) - min(lons)) * METRES_A_DEGREE * cos(middle)
    high = (max(lats) - min(lats)) * METRES_A_DEGREE
    inner_w, inner_h = WIDTH - 2 * EDGE - 120, HEIGHT - 2 * EDGE
    scale = min(inner_w / max(wide, LEAST_M), inner_h / max(high, LEAST_M))
    left, top = (WIDTH - wide * scale) / 2, (HEIGHT - high * scale) / 2
    spots: list[Spot] = []
    last = -APART
    for point, line in sorted(placed, key=lambda one: -(one[0].latitude or 0.0)):
        east = ((point.longitude or 0.0) - min(lons)) * METRES_A_DEGREE * cos(middle)
        north = ((point.latitude or 0.0) - min(lats)) * METRES_A_DEGREE
        x, y = left + east * scale, top + (high - north) * scale
        last = max(y, last + APART)
        spots.append(Spot(point, line, x, y, last))
    step = round_step(90 / scale)
    words = f"{step / 1000:g} km" if step >= 1000 else f"{step:g} m"
    return PointMap(spots, step * scale, words, len(rows) - len(placed))
