"""The demo programme: Lowen Vale Water Room, invented from end to end."""

from collections.abc import Sequence
from datetime import timedelta

from django.db import transaction
from django.utils import timezone

from kessa.library.cases import make_case
from kessa.library.models import Instrument, KitCase, Lot
from kessa.library.services import take_up
from kessa.pages.demo import happenings, history, people, places, review, rounds, stock
from kessa.pages.demo.truths import DAYS
from kessa.platform import clock
from kessa.platform.adopting import adopt
from kessa.platform.models import Person, Programme
from kessa_core.methods import shipped_ids
from kessa_core.methods.catalogue import shipped_text

SLUG = "lowen-vale"


@transaction.atomic
def load(rounds_done: Sequence[history.Round] = history.ROUNDS) -> Programme:
    """Make what is missing of the demo; what is there stays as people left it. rounds_done: of
    which its history is made."""
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
        with clock.at(now - timedelta(days=DAYS + 7)):
            for method_id in shipped_ids():
                take_up(programme, shipped_text(method_id))
        stock.make(programme, now.date())
        with clock.at(now - timedelta(days=DAYS + 7)):
            staff = people.make(programme)
            points = places.make(programme)
        history.make(programme, staff, points, now, rounds_done)
        happenings.make(programme, staff, points, now)
        review.make(programme, staff)
        if not KitCase.objects.of(programme).exists():
            _fill_cases(programme, staff)
        rounds.make(programme, staff, points, now)
    return programme


CASES = (
    ("Green case", "monitor", ("silver nitrate", "chromate indicator", "oxygen ampoules"),
     ("LV-301", "LV-310")),
    ("Blue case", "manager", ("hardness titrant", "cerium titrant"), ("LV-302",)),
)  # fmt: skip
"""Name, who has it, the reagents of which a lot is in it, the instruments in it."""


def _fill_cases(programme: Programme, staff: dict[str, Person]) -> None:
    lots = dict(Lot.objects.of(programme).filter(in_use=True).values_list("reagent", "pk"))
    instruments = dict(Instrument.objects.of(programme).values_list("number", "pk"))
    for name, holder, in_it, with_it in CASES:
        make_case(
            programme,
            None,
            name=name,
            held_by=staff[holder],
            lots=[lots[reagent] for reagent in in_it if reagent in lots],
            instruments=[instruments[number] for number in with_it if number in instruments],
        )
