"""A water as a grid: its points by what is measured, each cell with value, gauge and a word."""

from collections.abc import Sequence
from dataclasses import dataclass

from kessa.pages.points.latest import Line
from kessa.places.models import Point


@dataclass(frozen=True)
class Column:
    """One thing that is measured: its name and unit."""

    key: tuple[str, str, str, str]
    name: str
    unit: str


@dataclass(frozen=True)
class GridRow:
    """A point with its newest value of each column; None where that is not measured there."""

    point: Point
    cells: list[Line | None]


@dataclass(frozen=True)
class Grid:
    columns: list[Column]
    rows: list[GridRow]


def grid_of(points: Sequence[Point], lines: Sequence[Line]) -> Grid:
    """The grid of *points* in their order; the columns that most points have come first."""
    columns: dict[tuple[str, str, str, str], Column] = {}
    held: dict[tuple[int, tuple[str, str, str, str]], Line] = {}
    for line in lines:
        q = line.value.quantity
        key = (q.parameter, q.form, q.basis, q.unit)
        columns.setdefault(key, Column(key, line.name, q.label))
        held[line.point.pk, key] = line
    often = {key: sum((point.pk, key) in held for point in points) for key in columns}
    ordered = sorted(columns.values(), key=lambda one: (-often[one.key], one.name))
    rows = [
        GridRow(point, [held.get((point.pk, column.key)) for column in ordered]) for point in points
    ]
    return Grid(ordered, rows)
