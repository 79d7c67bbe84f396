"""Points out to a file, and in from one."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from kessa.places.models import Point, Water
from kessa.places.services import change_point, make_point, make_water
from kessa.platform.models import Person, Programme
from kessa_core.exchange import PlannedPoint

SAID = ("place", "part", "latitude", "longitude", "altitude_m", "tag", "landmarks", "getting_there")
"""What a file says of a point beside its water and name."""


@dataclass(frozen=True)
class Brought:
    """What became of the points of a file, by how many."""

    made: int
    changed: int
    same: int
    waters: int

    @property
    def words(self) -> str:
        """In a sentence."""
        new = ", some at a new stream or system" if self.waters else ""
        return f"{self.made} added{new}; {self.changed} changed; {self.same} as they were."


def planned_points(programme: Programme) -> list[PlannedPoint]:
    """Every point of a programme as a file says it."""
    return [
        PlannedPoint(
            point.water.name,
            point.water.kind,
            point.name,
            **{name: getattr(point, name) for name in SAID},
        )
        for point in Point.objects.of(programme).select_related(None).select_related("water")
    ]


@transaction.atomic
def bring_points(programme: Programme, by: Person, planned: Iterable[PlannedPoint]) -> Brought:
    """Add the points that are not there, by water and name; of those that are, change what the file
    says. What it leaves empty stays as it is; no point goes away."""
    waters = {water.name: water for water in Water.objects.of(programme)}
    kept = {(point.water_id, point.name): point for point in Point.objects.of(programme)}
    made = changed = same = new_waters = 0
    for one in planned:
        if one.water not in waters:
            waters[one.water] = make_water(programme, by, "", name=one.water, kind=one.kind)
            new_waters += 1
        water = waters[one.water]
        said: dict[str, Any] = {
            name: value for name in SAID if (value := getattr(one, name)) not in (None, "")
        }
        point = kept.get((water.pk, one.name))
        if point is None:
            kept[water.pk, one.name] = make_point(water, by, name=one.name, **said)
            made += 1
        elif differing := {k: v for k, v in said.items() if getattr(point, k) != v}:
            change_point(point, by, **differing)
            changed += 1
        else:
            same += 1
    return Brought(made, changed, same, new_waters)
