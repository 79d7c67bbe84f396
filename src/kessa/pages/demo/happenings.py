"""What was written down beside the demo's visits."""

from collections.abc import Mapping
from datetime import datetime, timedelta

from kessa.pages.demo.truths import DAYS, SALTED, TOP_UPS
from kessa.places.models import Point
from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.visits.models import WaterEvent
from kessa.visits.water_events import note_event

HAPPENED = (
    *((day, "chilled", "dose", "18 L of nitrite inhibitor", "manager") for day in TOP_UPS),
    (SALTED, "below", "salt", "lane above the stile, black ice", "monitor"),
    (330, "below", "repair", "stile and step renewed", "monitor"),
    (210, "circulating", "cleaning", "basin emptied and cleaned", "manager"),
    (402, "hut", "repair", "dosing pump: new membrane", "manager"),
)
"""Day of the story, point, kind, words, who."""
POINT_ALONE = ("salt",)


def make(
    programme: Programme, staff: Mapping[str, Person], points: Mapping[str, Point], end: datetime
) -> None:
    """Every event; nothing where there are some."""
    if WaterEvent.objects.of(programme).exists():
        return
    start = (end - timedelta(days=DAYS)).replace(hour=16, minute=10, second=0, microsecond=0)
    for day, key, kind, words, who in sorted(HAPPENED):
        at, point = start + timedelta(days=day), points[key]
        with clock.at(at + timedelta(minutes=20)):
            alone = point if kind in POINT_ALONE else None
            note_event(point.water, staff[who], kind, at, words, alone)
