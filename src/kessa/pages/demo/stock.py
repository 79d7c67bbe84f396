"""The demo's reagents and instruments: a new lot whenever the last one is through. All invented."""

from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Any

from kessa.library.equipment import note_instrument, note_lot
from kessa.library.models import Instrument, Lot
from kessa.pages.demo.truths import DAYS, HIGH_STRIPS
from kessa.platform.models import Programme


@dataclass(frozen=True)
class Reagent:
    """A reagent: how its lots are numbered, how many days one serves, how long it keeps, how much
    there is in a pack. first: the day of the story on which its first lot was opened."""

    name: str
    letters: str
    serves: int
    keeps: int
    contains: float
    unit: str
    storage: tuple[str, ...] = ()
    more: dict[str, Any] = field(default_factory=dict)


REAGENTS = (
    Reagent("silver nitrate", "LV", 92, 365, 3200, "drops", ("in the dark",)),
    Reagent("chromate indicator", "CI", 184, 730, 2400, "drops"),
    Reagent("phosphate strips", "PS", HIGH_STRIPS[1] - HIGH_STRIPS[0], 380, 50, "strip",
            ("dry", "tightly closed")),
    Reagent("hardness strips", "HS", 190, 540, 50, "strip", ("dry", "tightly closed")),
    Reagent("hardness titrant", "HT", 120, 540, 3000, "drops"),
    Reagent("nitrate ampoules", "NA", 120, 700, 30, "ampoule"),
    Reagent("cerium titrant", "CE", 150, 330, 900, "drops"),
    Reagent("oxygen ampoules", "OX", 130, 365, 60, "ampoule"),
)  # fmt: skip
"""Those whose lots are noted."""

OTHER: tuple[tuple[str, str, int, int, dict[str, Any]], ...] = (
    ("buffer 7", "B7-402", 190, 120, {"keeps_days": 180}),
    ("phosphate standard 1.50", "PS-03", 20, 160,
     {"content": 1.5, "content_unit": "mg/L as PO₄", "content_sd": 0.01,
      "prepared": "15.0 mL of the 100 mg/L stock made up to 1000 mL"}),
)  # fmt: skip
"""Reagent, number, days since it was opened, days until it expires, what else is recorded."""

INSTRUMENTS = (
    ("Pocket meter 1", "LV-301", ("pocket pH meter", "pocket redox meter"), 20, 70),
    ("Pocket meter 2", "LV-302", ("pocket pH meter",), 200, -20),
    ("Conductivity meter", "LV-310", ("pocket conductivity meter",), 12, 80),
    ("Photometer", "LV-320", ("pool and drinking water photometer",), 40, 325),
)
"""Name, number, what it is used as, days since its check, days until the next one."""
IN_THE_HISTORY = ("LV-301", "LV-310", "LV-320")


def make(programme: Programme, today: date) -> None:
    """Lots and instruments; nothing where there are some."""
    if not Lot.objects.of(programme).exists():
        for reagent in REAGENTS:
            _lots_of(programme, reagent, today)
        for name, number, opened, expires, more in OTHER:
            _note(programme, name, number, today - timedelta(days=opened),
                  today + timedelta(days=expires), more)  # fmt: skip
    if not Instrument.objects.of(programme).exists():
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


def _lots_of(programme: Programme, reagent: Reagent, today: date) -> None:
    """One lot after the other; only the last one is still in use. Strips change with the story."""
    start = today - timedelta(days=DAYS)
    first = HIGH_STRIPS[0] % reagent.serves - reagent.serves if reagent.letters == "PS" else -3
    opened = [start + timedelta(days=day) for day in range(first, DAYS, reagent.serves)]
    for number, day in enumerate(opened, 1):
        more = {
            "contains": reagent.contains,
            "unit": reagent.unit,
            "storage": list(reagent.storage),
            "in_use": number == len(opened),
        }
        name = f"{reagent.letters}-{day:%y}-{number:02d}"
        _note(programme, reagent.name, name, day, day + timedelta(days=reagent.keeps), more)


def _note(
    programme: Programme,
    reagent: str,
    number: str,
    opened: date,
    expires: date,
    more: dict[str, Any],
) -> None:
    note_lot(
        programme, None, reagent=reagent, number=number, opened=opened, expires=expires, **more
    )
