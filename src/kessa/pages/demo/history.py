"""Eighteen months of chloride, made by the simulation and run through the same services as work.

The pond starts leaking in the second autumn; above it nothing changes. One blank fails, one visit
finds the brook in flood.
"""

from dataclasses import dataclass
from datetime import datetime, timedelta
from math import cos, pi
from typing import Any

import numpy as np

from kessa.flows.receiving import keep
from kessa.library.models import MethodVersion
from kessa.pages.demo.review import review
from kessa.places.models import Point
from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.results.models import Result
from kessa.runs import services as bench
from kessa.visits import services as visits
from kessa.visits.models import Sample
from kessa_core.simulation import script
from kessa_core.simulation.bottle import draw_bottle
from kessa_core.simulation.hands import AnalystProfile, work

SEED = 20261
DAYS = 548
EVERY = 14
LEAK_AFTER = 455
FLOOD_VISIT = 17
FAILED_BLANK_VISIT = 29
WEATHER = ("clear", "cloudy", "rain", "wind")
BEFORE = ("dry", "dry", "rain", "heavy rain", "thaw")


@dataclass(frozen=True)
class Day:
    """One visit's day: how far into the story, weather, temperature."""

    number: int
    at: datetime
    before: str
    now: str
    water_c: float


def make(
    programme: Programme, staff: dict[str, Person], above: Point, below: Point, end: datetime
) -> None:
    """Every visit up to the day before *end*; does nothing when there are results already."""
    if Result.objects.of(programme).exists():
        return
    rng = np.random.default_rng(SEED)
    person = staff["monitor"]
    newest = MethodVersion.objects.of(programme).newest()
    version = newest.get(method_id="chloride-drops-15ml")
    start = end - timedelta(days=DAYS)
    for number, days in enumerate(range(0, DAYS - 2, EVERY)):
        at = (start + timedelta(days=days)).replace(hour=9, minute=int(rng.integers(20, 58)))
        bottle = draw_bottle(version.method.stages[0].reader(), rng)
        day = _day(number, at, rng)
        for order, point in enumerate((above, below)):
            when = at + timedelta(minutes=55 * order)
            with clock.at(when):
                sample = _visit(programme, person, point, day)
                if number == FLOOD_VISIT:
                    visits.do_not_sample(sample, person, "flood or strong current")
                    continue
                visits.take(sample, person, when, programme.timezone)
                run = bench.open_run(sample, person)
            truth = _truth(point is below, days, day, rng)
            dirty = 30.0 if number == FAILED_BLANK_VISIT and order == 0 else 0.0
            session = work(
                version.method, truth, rng, AnalystProfile(doubt=0.06, keen=0.04), bottle, dirty
            )
            begun = when + timedelta(minutes=6)
            events = script.events(version.method, session, begun, rng, str(run.pk))
            with clock.at(events[-1].when):
                keep(programme, person, [event.as_json() for event in events])
            review(staff, Result.objects.get(run=run), number, order)


def _visit(programme: Programme, person: Person, point: Point, day: Day) -> Sample:
    sample = visits.begin(programme, person, point, "chloride-drops-15ml")
    visits.decide_to_go(sample, person)
    noted: dict[str, Any] = {
        "weather_now": day.now,
        "weather_before": day.before,
        "water_c": day.water_c,
        "air_c": round(day.water_c + 2, 1),
        "seen": ["brown water"] if day.before == "heavy rain" else ["clear water"],
        "note": "",
    }
    visits.note_context(sample, person, noted)
    return sample


def _day(number: int, at: datetime, rng: np.random.Generator) -> Day:
    season = cos((at.timetuple().tm_yday - 20) / 365 * 2 * pi)
    before = str(rng.choice(BEFORE if season > 0.4 else BEFORE[:4]))
    return Day(number, at, before, str(rng.choice(WEATHER)), round(9 - 6 * season, 1))


def _truth(below: bool, days: int, day: Day, rng: np.random.Generator) -> float:
    """The invented truth in mg/L: base, season, rain dilutes, thaw brings salt, the leak below."""
    base = 26.0 + 3 * cos(day.at.timetuple().tm_yday / 365 * 2 * pi)
    base += {"heavy rain": -4.0, "thaw": 7.0}.get(day.before, 0.0)
    if below:
        leak = max(0.0, (days - LEAK_AFTER) / (DAYS - LEAK_AFTER))
        base += 9.0 + 44 * leak**1.3
    return max(4.0, base + float(rng.normal(0, 2.2)))
