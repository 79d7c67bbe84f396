"""The demo's sets of tests, and the last visit of one of them, done by the simulation."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from kessa.flows.receiving import keep
from kessa.flows.visit_end import finish_visit
from kessa.library.models import KitCase
from kessa.places.models import Point
from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.runs.models import Run
from kessa.runs.services import open_run
from kessa.visits import services as visits
from kessa.visits.models import Sample, TestSet
from kessa.visits.sets import begin_set, make_set
from kessa_core.simulation import script
from kessa_core.simulation.hands import work

SEED = 1128
DAYS_AGO = 13
ROUND = ("thermometer", "oxygen-ampoule", "ph-tablets", "conductivity-meter",
         "chloride-drops-15ml", "nitrate-comparator")  # fmt: skip
AFTER_RAIN = ("sight-tube", "nitrate-comparator", "chloride-drops-15ml")
TRUTHS = {
    "thermometer": (5.4, 5.6),
    "oxygen-ampoule": (10.8, 9.1),
    "ph-tablets": (7.4, 7.7),
    "conductivity-meter": (212.0, 405.0),
    "chloride-drops-15ml": (28.0, 78.0),
    "nitrate-comparator": (1.2, 2.6),
}
"""Above and below the pond; all invented."""
OUT_OF_STOCK = "nitrate-comparator"


ROUNDS = (
    ("Boiler round", 0, "manager", {
        "feed": ("hardness-drops-25ml", "conductivity-meter"),
        "boiler": ("chloride-drops-5ml", "alkalinity-drops", "conductivity-meter",
                   "sulphite-drops", "ph-meter"),
        "condensate": ("hardness-drops-25ml", "conductivity-meter"),
    }),
    ("Mossbank supply", 3, "monitor", {
        "borehole": ("nitrate-ampoule", "conductivity-meter"),
        "hut": ("chlorine-photometer",), "tap-1": ("chlorine-photometer",),
        "tap-2": ("chlorine-photometer",),
    }),
    ("Cooling circuit", 2, "manager", {
        "make-up": ("conductivity-meter", "hardness-drops-5ml", "chloride-drops-15ml"),
        "circulating": ("conductivity-meter", "hardness-drops-5ml", "chloride-drops-5ml",
                        "ph-meter", "chlorine-photometer"),
    }),
    ("Chilled loop", 6, "manager", {
        "chilled": ("nitrite-drops-glycol", "ph-meter", "conductivity-meter"),
    }),
)  # fmt: skip
"""Weekly sets: name, in how many days they are due, who goes, what is tested where."""


def make(programme: Programme, staff: Mapping[str, Person], places: Mapping[str, Point],
         end: datetime) -> None:  # fmt: skip
    """The sets, and a visit of one of them; nothing where there are sets already."""
    if TestSet.objects.of(programme).exists():
        return
    points = (places["above"], places["below"])
    for name, days, who, asked in ROUNDS:
        due = end.date() + timedelta(days=days)
        make_set(
            programme,
            None,
            name=name,
            asked=[{"point": places[key].pk, "methods": list(some)} for key, some in asked.items()],
            rhythm={"kind": "weekly", "weekday": due.weekday(), "every": 1},
            lead=staff[who],
            begins=due,
        )
    begins = end.date() - timedelta(days=14)
    green = KitCase.objects.of(programme).filter(name="Green case").first()
    team = {
        "lead": staff["monitor"],
        "companion": staff["reviewer"],
        "case": green,
        "begins": begins,
    }
    round_ = make_set(
        programme,
        None,
        name="Brook round",
        asked=_asked(points, ROUND),
        rhythm={"kind": "weekly", "weekday": end.weekday(), "every": 2},
        **team,
    )
    make_set(
        programme,
        None,
        name="Brook after rain",
        asked=_asked(points, AFTER_RAIN),
        rhythm={"kind": "occasion", "occasion": "rain"},
        **team,
    )
    _visit(round_, staff["monitor"], points, end - timedelta(days=DAYS_AGO))


def _asked(points: tuple[Point, Point], methods: tuple[str, ...]) -> list[dict[str, object]]:
    return [{"point": point.pk, "methods": list(methods)} for point in points]


@dataclass
class _Clock:
    """The time of day as the visit goes on."""

    at: datetime


def _visit(of_set: TestSet, person: Person, points: tuple[Point, Point], day: datetime) -> None:
    rng = np.random.default_rng(SEED)
    now = _Clock(day.replace(hour=9, minute=40, second=0, microsecond=0))
    with clock.at(now.at):
        visit = begin_set(of_set, person, points, of_set.begins)
    samples = Sample.objects.of(of_set.programme).filter(visit=visit).order_by("pk")
    for order, sample in enumerate(samples):
        _at_point(sample, person, order, now, rng)
    left = Run.objects.of(of_set.programme).of_visit(visit.pk).filter(finish="")
    with clock.at(now.at):
        reasons = {str(run.pk): "out of reagent" for run in left}
        finish_visit(visit, person, reasons, "The nitrate kit is empty. A new one is ordered.")


def _at_point(
    sample: Sample, person: Person, order: int, now: _Clock, rng: np.random.Generator
) -> None:
    with clock.at(now.at):
        visits.decide_to_go(sample, person)
        noted = {"event": "after rain", "level": "high", "flow": "fast", "colour": "slightly brown"}
        visits.note_context(
            sample,
            person,
            {"weather_now": "cloudy", "weather_before": "rain", "air_c": 7.0,
             "seen": ["brown water"], "note": "", "noted": noted},
        )  # fmt: skip
    now.at += timedelta(minutes=6)
    with clock.at(now.at):
        how = {"filled": "capped under water", "rinses": "three, lid too"}
        zone = sample.programme.timezone
        visits.take(sample, person, now.at, zone, 30, noted=how)
    runs = []
    for asked in sample.tests.all():
        now.at += timedelta(seconds=1)
        with clock.at(now.at):
            runs.append(open_run(sample, person, asked.method_id))
    now.at += timedelta(minutes=2)
    for run in runs:
        if order and run.version.method_id == OUT_OF_STOCK:
            continue
        session = work(run.method, TRUTHS[run.version.method_id][order], rng)
        events = script.events(run.method, session, now.at, rng, str(run.pk))
        now.at = events[-1].when + timedelta(seconds=40)
        with clock.at(events[-1].when):
            keep(sample.programme, person, [event.as_json() for event in events])
