"""Eighteen months of visits to the demo's waters, made by the simulation and computed by the same
core as work is. Nothing marks the stories in them (kessa.pages.demo.truths)."""

import uuid
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

import numpy as np

from kessa.flows.past_visits import PastSample, PastTest, PastVisit, PastVisits
from kessa.library.models import Instrument
from kessa.pages.demo.truths import DAYS, Day, truth
from kessa.places.models import Point
from kessa.platform.models import Person, Programme
from kessa.results.models import Result
from kessa_core.simulation import script
from kessa_core.simulation.bottle import SharedErrors, draw_bottle
from kessa_core.simulation.hands import AnalystProfile, work

SEED = 20261
REVIEWED_BEFORE = 14
"""Results of the last so many days still wait for a reviewer."""
WEATHER = ("clear", "cloudy", "rain", "wind")
BEFORE = (*["dry"] * 13, "rain", "rain", "rain", "heavy rain", "thaw", "snow")
FLOOD_DAY = 238
"""The brook was in flood and nobody sampled it."""
FAILED_BLANK_DAY = 406
"""The first blank of chloride at the upper point was dirty."""
HABITS = AnalystProfile(doubt=0.06, keen=0.04)


@dataclass(frozen=True)
class Round:
    """Tests that are done again and again: from which day, every how many days, at what hour, by
    whom; at each point (by its key) the methods with what they measure."""

    first: int
    every: int
    hour: int
    who: str
    outdoors: bool
    tests: Mapping[str, tuple[tuple[str, str], ...]]


BROOK = (
    ("thermometer", "temperature"), ("oxygen-ampoule", "oxygen"), ("ph-tablets", "ph"),
    ("conductivity-meter", "conductivity"), ("chloride-drops-15ml", "chloride"),
    ("sight-tube", "turbidity"),
)  # fmt: skip
NUTRIENTS = (("nitrate-comparator", "nitrate"), ("phosphate-strip", "phosphate"))
TARN = (
    ("thermometer", "temperature"), ("ph-tablets", "ph"), ("conductivity-meter", "conductivity"),
    ("disc-on-rope", "clarity"), ("phosphate-strip", "phosphate"),
)  # fmt: skip
CHLORINE = (("chlorine-photometer", "chlorine"),)
ROUNDS = (
    Round(1, 7, 9, "monitor", True, {"above": BROOK, "below": BROOK}),
    Round(8, 14, 12, "monitor", True, {"above": NUTRIENTS, "below": NUTRIENTS}),
    Round(3, 28, 10, "reviewer", True, {"tarn": TARN}),
    Round(0, 7, 14, "monitor", False, {
        "borehole": (("nitrate-ampoule", "nitrate"), ("conductivity-meter", "conductivity")),
        "hut": CHLORINE, "tap-1": CHLORINE, "tap-2": CHLORINE,
    }),
    Round(4, 7, 8, "manager", False, {
        "feed": (("hardness-drops-25ml", "hardness"), ("conductivity-meter", "conductivity")),
        "boiler": (
            ("chloride-drops-5ml", "chloride"), ("alkalinity-drops", "alkalinity"),
            ("conductivity-meter", "conductivity"), ("sulphite-drops", "sulphite"),
            ("ph-meter", "ph"),
        ),
        "condensate": (
            ("hardness-drops-25ml", "hardness"), ("conductivity-meter", "conductivity"),
        ),
    }),
    Round(4, 14, 11, "manager", False, {
        "make-up": (("conductivity-meter", "conductivity"), ("hardness-drops-5ml", "hardness"),
                    ("chloride-drops-15ml", "chloride")),
        "circulating": (
            ("conductivity-meter", "conductivity"), ("hardness-drops-5ml", "hardness"),
            ("chloride-drops-5ml", "chloride"), ("ph-meter", "ph"),
            ("chlorine-photometer", "chlorine"),
        ),
    }),
    Round(9, 14, 13, "manager", False, {
        "chilled": (("nitrite-drops-glycol", "nitrite"), ("ph-meter", "ph"),
                    ("conductivity-meter", "conductivity")),
    }),
    Round(6, 28, 15, "manager", False, {
        "school": (("ph-meter", "ph"), ("conductivity-meter", "conductivity"),
                   ("hardness-strip", "hardness")),
    }),
)  # fmt: skip


def make(
    programme: Programme,
    staff: Mapping[str, Person],
    points: Mapping[str, Point],
    end: datetime,
    rounds: Sequence[Round] = ROUNDS,
) -> None:
    """Every visit of eighteen months up to the day before *end*; nothing once there are results."""
    if Result.objects.of(programme).exists():
        return
    _History(programme, staff, points, end).make(rounds)


class _History:
    def __init__(
        self,
        programme: Programme,
        staff: Mapping[str, Person],
        points: Mapping[str, Point],
        end: datetime,
    ) -> None:
        self.staff, self.points = staff, points
        self.start = (end - timedelta(days=DAYS)).replace(minute=0, second=0, microsecond=0)
        self.rng = np.random.default_rng(SEED)
        self.bottles: dict[tuple[str, str, int], SharedErrors] = {}
        instruments = Instrument.objects.of(programme).filter(in_use=True)
        self.past = PastVisits(programme, instruments)

    def make(self, rounds: Sequence[Round]) -> None:
        for day, due in self.days(rounds):
            for one in due:
                self.past.add(self.visit(day, one))
        self.past.finish()

    def days(self, rounds: Sequence[Round]) -> Iterator[tuple[Day, list[Round]]]:
        """Each day on which somebody went, with the rounds that were done."""
        for number in range(DAYS):
            due = [one for one in rounds if number >= one.first
                   and (number - one.first) % one.every == 0]  # fmt: skip
            at = self.start + timedelta(days=number)
            before = str(self.rng.choice(BEFORE if at.month in (12, 1, 2, 3) else BEFORE[:-2]))
            yield Day(number, at, before), due

    def visit(self, day: Day, one: Round) -> PastVisit:
        """One round on one day."""
        now = day.at.replace(hour=one.hour) + timedelta(minutes=int(self.rng.integers(2, 50)))
        samples = []
        for key, tests in one.tests.items():
            samples.append(self.sample(day, one, key, tests, now))
            ended = [test.events[-1].when for test in samples[-1].tests]
            now = max([now, *ended]) + timedelta(minutes=9)
        reviewed = day.number < DAYS - REVIEWED_BEFORE
        reviewer = self.staff["manager" if one.who == "reviewer" else "reviewer"]
        return PastVisit(self.staff[one.who], samples, reviewed_by=reviewer if reviewed else None)

    def sample(
        self, day: Day, one: Round, key: str, tests: tuple[tuple[str, str], ...], at: datetime
    ) -> PastSample:
        """One point on one day: every test of it, one after the other."""
        noted = self.conditions(day, one, key)
        point = self.points[key]
        if day.number // 7 == FLOOD_DAY // 7 and key in ("above", "below"):
            methods = [method_id for method_id, _ in tests]
            return PastSample(point, at, noted, (), methods, "flood or strong current")
        done: list[PastTest] = []
        now = at + timedelta(minutes=4)
        for method_id, what in tests:
            done.append(self.test(day, key, method_id, what, now))
            now = done[-1].events[-1].when + timedelta(seconds=40)
        return PastSample(point, at, noted, done)

    def test(self, day: Day, key: str, method_id: str, what: str, begun: datetime) -> PastTest:
        """One test, done by somebody who works as people do."""
        method, run = (
            self.past.versions[method_id].method,
            str(uuid.UUID(bytes=self.rng.bytes(16), version=4)),
        )
        dirty = 0.0
        if what == "chloride" and key == "above" and day.number // 7 == FAILED_BLANK_DAY // 7:
            dirty = 30.0
        session = work(
            method, truth(key, what, day, self.rng), self.rng, HABITS,
            self.bottle(method_id, day), dirty,
        )  # fmt: skip
        return PastTest(
            method_id, uuid.UUID(run), script.events(method, session, begun, self.rng, run)
        )

    def bottle(self, method_id: str, day: Day) -> SharedErrors | None:
        """The bottle in use, a new one each quarter; none where a method reads several things."""
        stages = self.past.versions[method_id].method.stages
        if len(stages) > 1:
            return None
        key = (method_id, stages[0].id, day.number // 91)
        if key not in self.bottles:
            self.bottles[key] = draw_bottle(stages[0].reader(), self.rng)
        return self.bottles[key]

    def conditions(self, day: Day, one: Round, key: str) -> dict[str, Any]:
        """What was noted of the day."""
        if not one.outdoors:
            return {"seen": [], "note": ""}
        brown = day.before == "heavy rain" and key != "tarn"
        return {
            "weather_now": str(self.rng.choice(WEATHER)),
            "weather_before": day.before,
            "air_c": round(day.water_c + float(self.rng.normal(1.5, 2.0)), 1),
            "seen": ["brown water"] if brown else ["clear water"],
            "note": "",
        }
