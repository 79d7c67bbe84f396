"""The demo programme: Lowen Vale Water Room, invented from end to end."""

from datetime import date, timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from kessa.library.cases import make_case
from kessa.library.equipment import note_instrument, note_lot
from kessa.library.models import Instrument, KitCase, Lot
from kessa.library.services import take_up
from kessa.pages.demo import history, people, places, rounds
from kessa.platform import clock
from kessa.platform.adopting import adopt
from kessa.platform.models import Person, Programme
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
            _note_lots(programme, now.date())
        if not Instrument.objects.of(programme).exists():
            _note_instruments(programme, now.date())
        with clock.at(now - timedelta(days=history.DAYS + 7)):
            staff = people.make(programme)
            above, below = places.make(programme)
        history.make(programme, staff, above, below, now)
        if not KitCase.objects.of(programme).exists():
            _fill_cases(programme, staff)
        rounds.make(programme, staff, (above, below), now)
    return programme


CASES = (
    ("Green case", "monitor", ("LV-24-11", "LV-24-07", "HS-118"), ("LV-301", "LV-310")),
    ("Blue case", "manager", ("LV-24-12",), ("LV-302",)),
)
"""Name, who has it, the lots and the instruments in it."""


def _fill_cases(programme: Programme, staff: dict[str, Person]) -> None:
    lots = dict(Lot.objects.of(programme).values_list("number", "pk"))
    instruments = dict(Instrument.objects.of(programme).values_list("number", "pk"))
    for name, holder, in_it, with_it in CASES:
        make_case(
            programme,
            None,
            name=name,
            held_by=staff[holder],
            lots=[lots[number] for number in in_it if number in lots],
            instruments=[instruments[number] for number in with_it if number in instruments],
        )


LOTS: tuple[tuple[str, str, int, int, dict[str, Any]], ...] = (
    ("silver nitrate", "LV-24-12", 60, 300,
     {"contains": 1200.0, "unit": "drops", "storage": ["in the dark"]}),
    ("silver nitrate", "LV-24-11", 90, 270,
     {"contains": 1200.0, "unit": "drops", "storage": ["in the dark"]}),
    ("chromate indicator", "LV-24-07", 90, 500, {"contains": 600.0, "unit": "drops"}),
    ("hardness strips", "HS-118", 45, 18,
     {"contains": 50.0, "unit": "strip", "storage": ["dry", "tightly closed"]}),
    ("buffer 7", "B7-402", 190, 120, {"keeps_days": 180}),
    ("phosphate standard 1.50", "PS-03", 20, 160,
     {"content": 1.5, "content_unit": "mg/L as PO₄", "content_sd": 0.01,
      "prepared": "15.0 mL of the 100 mg/L stock made up to 1000 mL"}),
)  # fmt: skip
"""Reagent, number, days since it was opened, days until it expires, what else is recorded."""


def _note_lots(programme: Programme, today: date) -> None:
    for reagent, number, opened, expires, more in LOTS:
        note_lot(
            programme,
            None,
            reagent=reagent,
            number=number,
            opened=today - timedelta(days=opened),
            expires=today + timedelta(days=expires),
            **more,
        )


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
