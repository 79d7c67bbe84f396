"""Old values of a sample in words."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from kessa.platform.days import moment_text
from kessa.visits.conditions import said_of

LABELS = {"water_c": "water", "air_c": "air", "seen": "seen", "note": "note", "depth_cm": "depth"}
UNITS = {"water_c": "°C", "air_c": "°C", "depth_cm": "cm"}


def was(name: str, value: Any, points: Mapping[int, str]) -> str:
    """What a field held before: "water 6.5 °C", "note not recorded". *points*: names by number."""
    if value in (None, "", [], {}):
        return f"{LABELS.get(name, name)} not recorded"
    if name == "noted":
        return "; ".join(f"{label.lower()}: {said}" for label, said in said_of(value))
    if name == "taken_at":
        return moment_text(datetime.fromisoformat(value))
    if name == "point_id":
        return points.get(value, "another point")
    if name in UNITS:
        return f"{LABELS[name]} {value} {UNITS[name]}"
    return ", ".join(value) if isinstance(value, list) else str(value)
