"""The demo programme: Lowen Vale Water Room, invented from end to end."""

from datetime import date, timedelta

from django.db import transaction
from django.utils import timezone

from kessa.library.equipment import note_instrument, note_lot
from kessa.library.models import Instrument, Lot
from kessa.library.services import take_up
from kessa.pages.demo import history, people, places
from kessa.platform import clock
from kessa.platform.adopting import adopt
from kessa.platform.models import Programme
from kessa_core.methods import shipped_ids
from kessa_core.methods.catalogue import shipped_text

SLUG = "lowen-vale"


@transaction.atomic
def load() -> Programme:
    """Make what is missing of the demo; what is there stays as people left it."""
    programme, fresh = Programme.objects.get_or_create(
        slug=SLUG,
        defaults={
            "name": "Lowen Vale Water Room",
            "timezone": "Europe/London",
            "is_demo": True,
            "depth_rule": Programme.Depth.SHARE,
            "depth_cm": 30,
            "waste": {"heavy-metal": "The red can in the store; the manager hands it in."},
        },
    )
    if fresh:
        adopt(programme)
    with timezone.override(programme.timezone):
        now = timezone.localtime()
        with clock.at(now - timedelta(days=history.DAYS + 7)):
            for method_id in shipped_ids():
                take_up(programme, shipped_text(method_id))
        if not Lot.objects.of(programme).filter(number="LV-24-11").exists():
            note_lot(
                programme,
                None,
                reagent="silver nitrate",
                number="LV-24-11",
                opened=now.date() - timedelta(days=90),
                expires=now.date() + timedelta(days=270),
            )
        if not Instrument.objects.of(programme).exists():
            _note_instruments(programme, now.date())
        with clock.at(now - timedelta(days=history.DAYS + 7)):
            staff = people.make(programme)
            above, below = places.make(programme)
        history.make(programme, staff, above, below, now)
    return programme


INSTRUMENTS = (
    ("Pocket meter 1", "LV-301", ("pocket pH meter", "pocket redox meter"), 20, 70),
    ("Pocket meter 2", "LV-302", ("pocket pH meter",), 200, -20),
    ("Conductivity meter", "LV-310", ("pocket conductivity meter",), 12, 80),
    ("Photometer", "LV-320", ("pool and drinking water photometer",), 40, 325),
)
"""Name, number, what it is used as, days since its check, days until the next one."""


def _note_instruments(programme: Programme, today: date) -> None:
    for name, number, kinds, checked, due in INSTRUMENTS:
        note_instrument(
            programme,
            None,
            name=name,
            number=number,
            kinds=list(kinds),
            checked_on=today - timedelta(days=checked),
            check_due=today + timedelta(days=due),
        )
