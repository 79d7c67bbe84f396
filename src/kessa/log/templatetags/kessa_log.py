"""Old values of a sample in words."""

from datetime import datetime
from typing import Any

from django import template
from django.utils import timezone

from kessa.waters.models import Point

register = template.Library()


@register.filter
def was(value: Any, name: str) -> str:
    """What a corrected field held: "water 6.5 °C", "nothing noted"."""
    if value in (None, "", []):
        return f"{LABELS.get(name, name)} not noted".strip()
    if name == "taken_at":
        return f"{timezone.localtime(datetime.fromisoformat(value)):%d %B %Y, %H:%M}"
    if name == "point_id":
        return str(Point.objects.select_related("water").get(pk=value))
    if name in ("water_c", "air_c"):
        return f"{LABELS[name]} {value} °C"
    return ", ".join(value) if isinstance(value, list) else str(value)


LABELS = {"water_c": "water", "air_c": "air", "seen": "seen", "note": "note"}
