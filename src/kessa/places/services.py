"""Making and changing waters and points, and which limits hold there."""

from collections.abc import Sequence
from datetime import date, datetime
from typing import Any
from zoneinfo import ZoneInfo

from django.db import transaction
from django.db.models import OuterRef, Subquery, Value
from django.db.models.functions import NullIf

from kessa.places.limit_sets import find_set
from kessa.places.models import LimitAttachment, Point, Water
from kessa.places.queries import PointQuery
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.hashes import seal_of
from kessa.platform.models import Person, Programme
from kessa.platform.revisions import revise
from kessa_core.judging import LimitSet

WATER = ("name", "kind", "traits", "facts")
POINT = (
    "name", "place", "part", "altitude_m", "latitude", "longitude", "tag", "landmarks",
    "getting_there", "dangers", "pair_id", "photo", "mark_x", "mark_y",
)  # fmt: skip


@transaction.atomic
def make_water(
    programme: Programme, by: Person | None, limit_set: str = "", **described: Any
) -> Water:
    """A new water: name, kind, traits, facts; and the limit set that has always held there."""
    water = Water.objects.create(programme=programme, **described)
    revised = revise(water, by, _said(water, WATER), None)
    attached = LimitAttachment.objects.create(
        programme=programme, water=water, limit_set=limit_set, made_by=by
    )
    said = {"limit_set": limit_set, "seals": [revised, seal_of([attached])]}
    record(programme, by, "water.made", water, **described, **said)
    return water


@transaction.atomic
def change_water(water: Water, by: Person, **described: Any) -> None:
    """Change name, kind, traits or facts of a water; from now on it is so."""
    _change(water, by, "water.changed", WATER, described)


@transaction.atomic
def attach_limits(
    water: Water,
    by: Person | None,
    limit_set: str,
    valid_from: datetime | None = None,
    point: Point | None = None,
) -> bool:
    """Another limit set holds at the water, or at one *point* of it alone, from *valid_from* on
    (now, where it is not given).

    False where that set holds then already.
    """
    start = valid_from or clock.now()
    if point and own_limits(point, start) == limit_set:
        return False
    if point is None and limits_in_force(water, start) == limit_set:
        return False
    made = LimitAttachment.objects.create(
        programme_id=water.programme_id,
        water=water,
        point=point,
        limit_set=limit_set,
        valid_from=start,
        made_by=by,
    )
    data = {"limit_set": limit_set, "from": start.isoformat(timespec="seconds")}
    if point:
        data["point"] = point.name
    record(water.programme, by, "water.limits", water, seals=[seal_of([made])], **data)
    return True


def limits_in_force(water: Water, at: datetime) -> str:
    """The id of the limit set that holds at this water at *at*, but for points with their own;
    empty where none does."""
    attached = LimitAttachment.objects.of(water.programme_id).at_water(water).of_waters()
    return attached.in_force(at).values_list("limit_set", flat=True).first() or ""


def own_limits(point: Point, at: datetime) -> str | None:
    """The id of the limit set that holds at this point alone at *at*; None: that of its water."""
    attached = LimitAttachment.objects.of(point.programme_id).filter(point=point).in_force(at)
    key = attached.values_list("limit_set", flat=True).first()
    return None if key == LimitAttachment.OF_ITS_WATER else key


def key_at(rows: Sequence[tuple[int | None, str]], point: int | None) -> str:
    """Which set holds at a point (None: at those without their own), of attachments of its water
    that have begun, the latest first, each as its point and set."""
    own = next((key for at, key in rows if point is not None and at == point), None)
    if own is not None and own != LimitAttachment.OF_ITS_WATER:
        return own
    return next((key for at, key in rows if at is None), "")


def with_own_limits(points: PointQuery, at: datetime) -> PointQuery:
    """Each point with the id of the limit set that holds at it alone at *at*, as *own_limits*;
    None: that of its water."""
    attached = LimitAttachment.objects.filter(point=OuterRef("pk")).in_force(at)
    key = Subquery(attached.values("limit_set")[:1])
    own = NullIf(key, Value(LimitAttachment.OF_ITS_WATER))
    found: PointQuery = points.annotate(own_limits=own)
    return found


def set_at(point: Point, at: datetime) -> LimitSet | None:
    """The limit set in force at this point at *at*, in its newest edition: those of its limits that
    hold on that day for its part of the water."""
    return sets_at(point, [at])[0]


def sets_at(point: Point, moments: Sequence[datetime]) -> list[LimitSet | None]:
    """The same at each of several *moments*, in one query."""
    attached = LimitAttachment.objects.of(point.programme_id).at_water(point.water_id)
    latest_first = attached.in_force(max(moments)).values_list(
        "valid_from", "point_id", "limit_set"
    )
    rows = list(latest_first)
    keys = []
    for at in moments:
        begun = [(where, key) for start, where, key in rows if start is None or start <= at]
        keys.append(key_at(begun, point.pk))
    return [_holding(point, key, at) for key, at in zip(keys, moments, strict=True)]


def _holding(point: Point, key: str, at: datetime) -> LimitSet | None:
    water = point.water
    if not key:
        return None
    held = find_set(water.programme_id, key)
    day = day_there(water, at) if held.turns or held.seasons else at.date()
    return held.holding(day, point.part, water.known_traits)


def day_there(water: Water, at: datetime) -> date:
    """The day of a moment where the water is."""
    return at.astimezone(ZoneInfo(water.programme.timezone)).date()


@transaction.atomic
def make_point(water: Water, by: Person | None, **described: Any) -> Point:
    """A new point at a water, after those that are there."""
    point = Point.objects.create(
        programme=water.programme, water=water, order=water.points.count() + 1, **described
    )
    said = {"name": point.name, "water": water.pk}
    said["seals"] = [revise(point, by, _said(point, POINT), None)]
    record(water.programme, by, "point.made", point, **said)
    return point


@transaction.atomic
def change_point(point: Point, by: Person | None, **described: Any) -> None:
    """Change what is said about a point."""
    _change(point, by, "point.changed", POINT, described)


def _change(
    setting: Water | Point,
    by: Person | None,
    act: str,
    fields: tuple[str, ...],
    described: dict[str, Any],
) -> None:
    was = _said(setting, fields)
    for name, value in described.items():
        setattr(setting, name, value)
    setting.save(update_fields=[name.removesuffix("_id") for name in described])
    now = _said(setting, fields)
    if changed := [name for name in fields if was[name] != now[name]]:
        seals = [revise(setting, by, now, clock.now())]
        before, after = ({name: side[name] for name in changed} for side in (was, now))
        record(setting.programme, by, act, setting, before=before, after=after, seals=seals)


def said_of_water(water: Water) -> dict[str, Any]:
    """What a revision keeps of a water."""
    return _said(water, WATER)


def said_of_point(point: Point) -> dict[str, Any]:
    """What a revision keeps of a point."""
    return _said(point, POINT)


def _said(setting: Water | Point, fields: tuple[str, ...]) -> dict[str, Any]:
    return {name: getattr(setting, name) for name in fields}
