"""Points as GeoJSON (RFC 7946) and as CSV, out and in."""

import csv
import io
import json
from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass, fields
from typing import Any

from kessa_core.errors import CoreError

MOST = 2000
"""Points in one file."""


class BadPoints(CoreError):
    """A file of points that cannot be read: what is wrong, and in which line or feature."""


@dataclass(frozen=True)
class PlannedPoint:
    """A point as a file says it. latitude, longitude: degrees of WGS 84, both or neither;
    altitude_m: above the sea."""

    water: str
    kind: str
    name: str
    place: str = ""
    part: str = ""
    latitude: float | None = None
    longitude: float | None = None
    altitude_m: int | None = None
    tag: str = ""
    landmarks: str = ""
    getting_there: str = ""


COLUMNS = tuple(one.name for one in fields(PlannedPoint))
NUMBERS = {"latitude": (-90.0, 90.0), "longitude": (-180.0, 180.0), "altitude_m": (-430.0, 6000.0)}
NEEDED = ("water", "name")
LENGTHS = {"water": 80, "name": 80, "place": 160, "tag": 40, "landmarks": 240}


def as_geojson(points: Iterable[PlannedPoint]) -> str:
    """The points as a FeatureCollection; one without a place on the map has no geometry."""
    features = []
    for point in points:
        said = {name: value for name, value in asdict(point).items() if value not in (None, "")}
        said.pop("latitude", None), said.pop("longitude", None)
        geometry = None
        if point.latitude is not None and point.longitude is not None:
            geometry = {"type": "Point", "coordinates": [point.longitude, point.latitude]}
        features.append({"type": "Feature", "geometry": geometry, "properties": said})
    collection = {"type": "FeatureCollection", "features": features}
    return json.dumps(collection, ensure_ascii=False, indent=1)


def as_csv(points: Iterable[PlannedPoint]) -> str:
    """The points as comma-separated values, the names of the columns first."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow(COLUMNS)
    for point in points:
        rows.writerow(["" if value is None else value for value in asdict(point).values()])
    return out.getvalue()


def read_points(text: str, kinds: Sequence[str], parts: Sequence[str]) -> list[PlannedPoint]:
    """The points that a file says, GeoJSON or CSV. kinds, parts: what a water and a part can be.

    Raises BadPoints with the line or feature.
    """
    rows = _features(text) if text.lstrip().startswith("{") else _lines(text)
    if not rows:
        raise BadPoints("The file has no point.", remedy="Add a line for each point.")
    if len(rows) > MOST:
        raise BadPoints(f"The file has {len(rows)} points.", remedy=f"At most {MOST} at a time.")
    return [_point(where, row, kinds, parts) for where, row in rows]


Row = tuple[str, dict[str, Any]]


def _lines(text: str) -> list[Row]:
    try:
        dialect = csv.Sniffer().sniff(text[:2000], delimiters=",;\t")
    except csv.Error:
        dialect = csv.excel
    found = csv.reader(io.StringIO(text.lstrip("\ufeff")), dialect)
    try:
        first, *others = [row for row in found if any(cell.strip() for cell in row)]
    except (csv.Error, ValueError):
        raise BadPoints("The file has no line with the names of the columns.") from None
    names = [name.strip().lower() for name in first]
    missing = [name for name in NEEDED if name not in names]
    if missing:
        raise BadPoints(
            f"Line 1: there is no column {' and no column '.join(missing)}.",
            remedy=f"The columns are: {', '.join(COLUMNS)}.",
        )
    return [
        (f"Line {number}", dict(zip(names, row, strict=False)))
        for number, row in enumerate(others, 2)
    ]


def _features(text: str) -> list[Row]:
    try:
        read = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise BadPoints(f"This is no JSON: {error}"[:200]) from None
    features = read.get("features")
    if not isinstance(features, list):
        raise BadPoints("There are no features.", remedy="GeoJSON needs a FeatureCollection.")
    rows: list[Row] = []
    for number, feature in enumerate(features, 1):
        where = f"Feature {number}"
        if not isinstance(feature, dict) or not isinstance(feature.get("properties"), dict):
            raise BadPoints(f"{where} has no properties.")
        rows.append((where, dict(feature["properties"]) | _coordinates(where, feature)))
    return rows


def _coordinates(where: str, feature: dict[str, Any]) -> dict[str, Any]:
    geometry = feature.get("geometry")
    if geometry is None:
        return {}
    at = geometry.get("coordinates") if isinstance(geometry, dict) else None
    if not isinstance(at, list) or len(at) < 2 or geometry.get("type") != "Point":
        raise BadPoints(f"{where}: its geometry is no point.", remedy="Each feature is one point.")
    return {"longitude": at[0], "latitude": at[1]}


def _point(
    where: str, row: dict[str, Any], kinds: Sequence[str], parts: Sequence[str]
) -> PlannedPoint:
    said: dict[str, Any] = {}
    for name in COLUMNS:
        raw = row.get(name)
        text = "" if raw is None else str(raw).strip()
        said[name] = _number(where, name, text) if name in NUMBERS else text
        if name in LENGTHS and len(text) > LENGTHS[name]:
            raise BadPoints(f"{where}: {name} is longer than {LENGTHS[name]} characters.")
    for name in NEEDED:
        if not said[name]:
            raise BadPoints(f"{where}: {name} is empty.", remedy="Every point needs one.")
    if (said["latitude"] is None) != (said["longitude"] is None):
        raise BadPoints(f"{where}: latitude and longitude belong together.")
    said["kind"] = said["kind"] or kinds[0]
    for name, known in (("kind", kinds), ("part", ("", *parts))):
        if said[name] not in known:
            listed = ", ".join(one for one in known if one)
            raise BadPoints(
                f"{where}: {name} cannot be “{said[name]}”.", remedy=f"One of: {listed}."
            )
    if said["altitude_m"] is not None:
        said["altitude_m"] = round(said["altitude_m"])
    return PlannedPoint(**said)


def _number(where: str, name: str, text: str) -> float | None:
    if not text:
        return None
    low, high = NUMBERS[name]
    try:
        number = float(text.replace(",", "."))
    except ValueError:
        raise BadPoints(f"{where}: {name} is no number: “{text[:40]}”.") from None
    if not low <= number <= high:
        raise BadPoints(f"{where}: {name} lies between {low:g} and {high:g}.")
    return number
