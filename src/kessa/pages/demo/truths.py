"""What was really in the demo's waters on each day: invented, with its stories in it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from math import cos, exp, log, pi, sqrt

import numpy as np

from kessa_core.chemistry.oxygen import saturation_mg_l

DAYS = 548
"""Eighteen months."""
LEAK = 455
"""The settling pond begins to leak into the brook."""
SOFTENER = 500
"""The softener of the dye house fails."""
TOP_UPS = (150, 345)
"""Nitrite is added to the chilled loop."""
SALTED = 232
"""The lane above the lower point of the brook is salted."""
HIGH_STRIPS = (250, 345)
"""A lot of phosphate strips reads high from the first to the last of these days."""
TOO_HIGH = 1.7
SLIP = 546
"""Tap 2: the decimal point of free chlorine was lost."""


@dataclass(frozen=True)
class Day:
    """One day of the story: its number, its date, the weather before."""

    number: int
    at: datetime
    before: str = "dry"

    @property
    def winter(self) -> float:
        """1 in the middle of January, −1 in the middle of July."""
        return cos((self.at.timetuple().tm_yday - 15) / 365.25 * 2 * pi)

    @property
    def water_c(self) -> float:
        """The brook's temperature."""
        return 9.0 - 5.5 * self.winter

    def share(self, first: int, last: int = DAYS) -> float:
        """How much of the time from one day of the story to another is over, 0 to 1."""
        return min(1.0, max(0.0, (self.number - first) / (last - first)))

    def rain(self, change: float) -> float:
        """A change by rain, half as much again by heavy rain."""
        return {"rain": change, "heavy rain": 1.5 * change}.get(self.before, 0.0)

    def thaw(self, change: float) -> float:
        return change if self.before in ("thaw", "snow") else 0.0


def leak(day: Day) -> float:
    """How far the pond leaks, 0 to 1."""
    return exp(0.8 * log(day.share(LEAK))) if day.number > LEAK else 0.0


def salted(day: Day) -> float:
    """What is left of the salt on the lane, 1 on the day it was spread."""
    since = day.number - SALTED
    return exp(-since / 25) if since >= 0 else 0.0


def hardness_of_feed(day: Day) -> float:
    """mg/L as CaCO3: nothing while the softener works."""
    return 1.0 + 55 * sqrt(day.share(SOFTENER)) * day.share(SOFTENER)


def salt_of_boiler(day: Day) -> float:
    """mg/L as Cl: brine from a softener that rinses badly."""
    return 110.0 + 190 * day.share(SOFTENER)


def nitrite_of_loop(day: Day) -> float:
    """mg/L as NO2: it is eaten away, and topped up twice."""
    since = min(day.number - top for top in (-40, *TOP_UPS) if day.number >= top)
    return 830.0 * exp(-since / 285)


def chlorine(after: float, day: Day) -> Mapping[str, float]:
    """Free and total chlorine in mg/L; *after*: what is left of it where it is measured."""
    free = max(0.05, (0.62 + 0.06 * day.winter) * after)
    return {"free": free, "total": free + 0.07}


Truth = float | Mapping[str, float]
TRUTHS: dict[tuple[str, str], Callable[[Day], Truth]] = {
    ("above", "temperature"): lambda day: day.water_c,
    ("below", "temperature"): lambda day: day.water_c + 0.3,
    ("above", "conductivity"): lambda d: 212 - 14 * d.winter + d.rain(-16) + d.thaw(18),
    ("below", "conductivity"): lambda d: (
        226 - 14 * d.winter + d.rain(-16) + d.thaw(18) + 125 * leak(d) + 70 * salted(d)
    ),
    ("above", "chloride"): lambda d: 25 + 3 * d.winter + d.rain(-3) + d.thaw(6),
    ("below", "chloride"): lambda d: (
        34 + 3 * d.winter + d.rain(-3) + d.thaw(6) + 40 * leak(d) + 24 * salted(d)
    ),
    ("above", "ph"): lambda d: 7.3,
    ("below", "ph"): lambda d: 7.5 + 1.2 * leak(d),
    ("above", "oxygen"): lambda d: 0.97 * saturation_mg_l(d.water_c, 964.0, 0.0),
    ("below", "oxygen"): lambda d: (
        0.94 * saturation_mg_l(d.water_c + 0.3, 965.0, 0.0) - 0.4 * leak(d)
    ),
    ("above", "turbidity"): lambda d: 8 + d.rain(14) + d.thaw(6),
    ("below", "turbidity"): lambda d: 10 + d.rain(16) + d.thaw(6) + 9 * leak(d),
    ("above", "nitrate"): lambda d: 1.2 + 0.3 * d.winter,
    ("below", "nitrate"): lambda d: 1.5 + 0.3 * d.winter,
    ("above", "phosphate"): lambda d: 0.10 + d.rain(0.05),
    ("below", "phosphate"): lambda d: 0.16 + d.rain(0.06),
    ("tarn", "temperature"): lambda d: d.water_c + 1.5,
    ("tarn", "ph"): lambda d: 6.9,
    ("tarn", "conductivity"): lambda d: 48 - 3 * d.winter,
    ("tarn", "clarity"): lambda d: 3.9 + 0.8 * d.winter,
    ("tarn", "phosphate"): lambda d: 0.06,
    ("borehole", "nitrate"): lambda d: 2.0 + 0.4 * d.winter + 1.7 * (d.number - 180) / 365,
    ("borehole", "conductivity"): lambda d: 410 + 8 * (d.number / 365),
    ("hut", "chlorine"): lambda d: chlorine(1.0, d),
    ("tap-1", "chlorine"): lambda d: chlorine(0.8, d),
    ("tap-2", "chlorine"): lambda d: (
        {"free": 4.3, "total": 0.5} if d.number == SLIP else chlorine(0.62, d)
    ),
    ("feed", "hardness"): hardness_of_feed,
    ("feed", "conductivity"): lambda d: 205 + 18 * d.share(SOFTENER),
    ("boiler", "chloride"): salt_of_boiler,
    ("boiler", "alkalinity"): lambda d: {"p": 330.0, "m": 460.0},
    ("boiler", "conductivity"): lambda d: 3300 + 900 * d.share(SOFTENER),
    ("boiler", "sulphite"): lambda d: 44.0,
    ("boiler", "ph"): lambda d: 11.4,
    ("condensate", "hardness"): lambda d: 0.8,
    ("condensate", "conductivity"): lambda d: 14.0,
    ("make-up", "conductivity"): lambda d: 380 - 10 * d.winter,
    ("make-up", "hardness"): lambda d: 92 - 4 * d.winter,
    ("make-up", "chloride"): lambda d: 30.0,
    ("circulating", "conductivity"): lambda d: 1560 - 90 * d.winter,
    ("circulating", "hardness"): lambda d: 378 - 20 * d.winter,
    ("circulating", "chloride"): lambda d: 124 - 6 * d.winter,
    ("circulating", "ph"): lambda d: 8.4,
    ("circulating", "chlorine"): lambda d: {"free": 0.45, "total": 0.6},
    ("chilled", "nitrite"): nitrite_of_loop,
    ("chilled", "ph"): lambda d: 8.9,
    ("chilled", "conductivity"): lambda d: 1900 + 0.9 * nitrite_of_loop(d),
    ("school", "ph"): lambda d: 8.6,
    ("school", "conductivity"): lambda d: 250 + 0.05 * d.number,
    ("school", "hardness"): lambda d: 70.0,
    ("school", "clarity"): lambda d: 0.4,
}  # fmt: skip
"""The truth at a point on a day, in the unit of the method that is used there."""
SCATTER = {"ph": 0.0, "temperature": 0.0, "clarity": 0.03, "turbidity": 0.15}
USUAL_SCATTER = 0.035


def truth(point: str, what: str, day: Day, rng: np.random.Generator) -> Truth:
    """The truth at a point, with the small ups and downs that no story explains."""
    found = TRUTHS[point, what](day)
    spread = float(np.exp(rng.normal(0, SCATTER.get(what, USUAL_SCATTER))))
    if isinstance(found, Mapping):
        return {stage: number * spread for stage, number in found.items()}
    more = {"ph": 0.12, "temperature": 0.7}.get(what, 0.0)
    high = TOO_HIGH if what == "phosphate" and HIGH_STRIPS[0] <= day.number < HIGH_STRIPS[1] else 1
    return max(0.0, found * spread * high + float(rng.normal(0, more)))
