"""Making and changing waters and points."""

from typing import Any

from django.db import transaction

from kessa.accounts.models import Person, Programme
from kessa.records.services import record
from kessa.waters.models import Point, Water


@transaction.atomic
def make_water(programme: Programme, by: Person, name: str, kind: str, limit_set: str) -> Water:
    """A new water."""
    water = Water.objects.create(programme=programme, name=name, kind=kind, limit_set=limit_set)
    record(programme, by, "water.made", water, name=name, kind=kind, limit_set=limit_set)
    return water


@transaction.atomic
def make_point(water: Water, by: Person, **described: Any) -> Point:
    """A new point at a water, after those that are there."""
    point = Point.objects.create(
        programme=water.programme, water=water, order=water.points.count() + 1, **described
    )
    record(water.programme, by, "point.made", point, name=point.name, water=water.pk)
    return point


@transaction.atomic
def change_point(point: Point, by: Person, **described: Any) -> None:
    """Describe a point anew."""
    was = {name: _plain(getattr(point, name)) for name in described}
    for name, value in described.items():
        setattr(point, name, value)
    point.save(update_fields=list(described))
    now = {name: _plain(value) for name, value in described.items()}
    if was != now:
        record(point.programme, by, "point.changed", point, before=was, after=now)


def _plain(value: Any) -> Any:
    return value if isinstance(value, list | str | int | None) else value.pk
