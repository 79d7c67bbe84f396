"""Making and changing waters and points."""

from typing import Any

from django.db import transaction

from kessa.accounts.models import Person, Programme
from kessa.records.services import record
from kessa.waters.models import Point, Water


@transaction.atomic
def make_water(programme: Programme, by: Person, **described: Any) -> Water:
    """A new water: name, kind, limit_set, traits."""
    water = Water.objects.create(programme=programme, **described)
    record(programme, by, "water.made", water, **described)
    return water


@transaction.atomic
def change_water(water: Water, by: Person, **described: Any) -> None:
    """Describe a water anew."""
    _change(water, by, "water.changed", described)


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
    _change(point, by, "point.changed", described)


def _change(about: Water | Point, by: Person, act: str, described: dict[str, Any]) -> None:
    was = {name: _plain(getattr(about, name)) for name in described}
    for name, value in described.items():
        setattr(about, name, value)
    about.save(update_fields=list(described))
    now = {name: _plain(value) for name, value in described.items()}
    if was != now:
        record(about.programme, by, act, about, before=was, after=now)


def _plain(value: Any) -> Any:
    return value if isinstance(value, list | str | int | None) else value.pk
