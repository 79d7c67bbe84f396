"""A second simulator for every way of reading: what a person would see, from the physics alone.

It shares nothing with the forward models but the document's sizes: places on a scale come from the
published relation itself (a dilution, a straight line of absorbance, an exponential, a logarithm),
and the shapes differ on purpose where the world may. What scales a whole bench alike is gamma
distributed, filling is missed evenly to both sides, the eye has a logistic curve's heavier tails, a
zero stands off evenly. Counts of drops: kessa_core.simulation.dropwise.
"""

from bisect import bisect_left
from collections.abc import Callable
from dataclasses import dataclass
from math import floor, log, pi, sqrt
from typing import Any

import numpy as np

from kessa_core.methods.stage import Stage
from kessa_core.readings.reading import Count, Reading
from kessa_core.readings.scale import Scale

ALPHA = 0.0191
"""Conductivity's change a degree, as EN 27888:1993 has it for natural waters near 25 °C."""


@dataclass(frozen=True)
class Bench:
    """What one bench shares: a factor on every value, a shift of every reading in steps."""

    factor: float
    shift: float


class IndependentSimulator:
    """Draws determinations of one stage."""

    def __init__(self, stage: Stage, rng: np.random.Generator, slip: float = 0.01) -> None:
        self.stage, self.part, self.rng, self.slip = stage, stage.reading, rng, slip
        self.reader = stage.reader()
        self.place: Callable[[float], float] = getattr(self, "_" + self.part.by.replace("-", "_"))

    def bench(self) -> Bench:
        """A lot, an instrument, a portion and a person as they might be that day."""
        factor = self._about_one(self._sd("relative", "shared"))
        shift = self.rng.uniform(-1, 1) * sqrt(3) * self._sd("steps", "shared")
        even = [i for i in self.stage.influences if i.distribution == "uniform"]
        need = sum(self.rng.uniform(i.low or 0.0, i.high or 0.0) for i in even)
        return Bench(factor, shift + need)

    def determination(self, truth: float, bench: Bench) -> Reading:
        """One determination of a sample whose value is *truth*, in the unit of the stage."""
        there = truth * bench.factor * self._filled()
        if self.part.by == "tablet-count":
            return self._tablets(there, bench)
        if self.rng.random() < self.slip:
            return self._any_reading()
        if self.part.by == "burette":
            return self._titrated(self.place(there) + bench.shift)
        if self.part.by == "presence":
            return self._looked(truth)
        return self._seen(self.place(there) + bench.shift + self._eye())

    def _any_reading(self) -> Reading:
        """A slip: whatever stands on the scale."""
        if self.part.by == "burette":
            return self._titrated(float(self.rng.uniform(0, self._scale.high)))
        if self.part.by == "presence":
            return Reading(int(self.rng.integers(0, 2)))
        first, last = (0, self._scale.high - self._scale.low) if self._falls else self._reach
        return self._seen(float(self.rng.uniform(first, last)))

    @property
    def _scale(self) -> Scale:
        return self.reader.scale(self.reader.reading_fields[-1])

    @property
    def _reach(self) -> tuple[float, float]:
        parts = {"nearest": 1, "half": 2, "lower": 2, "bracket": 2, "estimate": 10}
        whole = parts.get(getattr(self.part, "rule", ""), 1)
        return self._scale.low / whole, self._scale.high / whole

    @property
    def _falls(self) -> bool:
        rows = getattr(self.part, "rows", ())
        falls = rows and self._column(rows[0]) > self._column(rows[-1])
        return bool(falls) or getattr(self.part, "shows", "") == "transmittance"

    @staticmethod
    def _column(row: Any) -> float:
        """The value of a row, of its first column where it has several."""
        return float(row.values[0] if row.values else row.value)

    def _titrated(self, used: float) -> Reading:
        """A burette: its start lies anywhere, both readings are by eye and to a whole step, and the
        last addition goes past the end once (HANDBOOK 4: V_end - V_start)."""
        start = float(self.rng.uniform(0, 40))
        past = self._logistic(self._size("endpoint"))
        read = [floor(at + self._logistic(self._size("eye")) + 0.5)
                for at in (start, start + used + past)]  # fmt: skip
        first = max(read[0], 0)
        if read[1] > self._scale.high:
            return Reading(self._scale.high, "beyond", (("start", first),))
        return Reading(max(read[1], first), beside=(("start", first),))

    def _size(self, of: str) -> float:
        return next((i.sd or 0.0 for i in self.stage.influences if i.of == of), 0.0)

    def _logistic(self, sd: float) -> float:
        return float(self.rng.logistic(0.0, sd * sqrt(3) / pi)) if sd else 0.0

    def _eye(self) -> float:
        return self._logistic(self._sd("steps", "determination"))

    def _filled(self) -> float:
        """A portion is missed evenly to both sides; waves, sensors and strips vary as they may."""
        factor = 1.0
        for i in self.stage.influences:
            if i.scope == "determination" and self.reader.knowledge(i.of).effect == "relative":
                sd = i.sd or 0.0
                even = self.rng.uniform(-1, 1) * sqrt(3) * sd
                varies = self.rng.logistic(0.0, sd * sqrt(3) / pi)
                factor *= 1 + (even if i.of == "portion" else varies)
        return factor

    # Sizes, as the document states them.

    def _sd(self, effect: str, scope: str) -> float:
        sizes = [
            i.sd or 0.0
            for i in self.stage.influences
            if i.scope == scope and self.reader.knowledge(i.of).effect == effect
        ]
        return sqrt(sum(size**2 for size in sizes))

    def _about_one(self, sd: float) -> float:
        return float(self.rng.gamma(1 / sd**2, sd**2)) if sd else 1.0

    # Where a value stands, in steps, principle by principle.

    def _tablet_count(self, value: float) -> float:
        p: Any = self.part
        return value / float(p.per_tablet) + (1.0 if p.first_sets_colour else 0.0)

    def _burette(self, value: float) -> float:
        p: Any = self.part
        if p.normality_eq_l is None:
            return value / float(p.per_ml) / float(p.estimate_ml)
        meq = value * p.portion_ml / 1000 / p.equivalent_weight_mg_meq
        return float(meq / p.normality_eq_l / float(p.estimate_ml))

    def _digital_titrator(self, value: float) -> float:
        return value / float(self.part.multiplier)  # type: ignore[union-attr]

    def _syringe(self, value: float) -> float:
        return value / float(self.part.mark)  # type: ignore[union-attr]

    def _comparator(self, value: float) -> float:
        p: Any = self.part
        return _between([float(shade.value) for shade in p.shades], value)

    _strip_pad = _comparator

    def _strip_height(self, value: float) -> float:
        p: Any = self.part
        rows = [(0.0, 0.0), *((float(row.read), float(row.value)) for row in p.example)]
        at = _between([worth for _, worth in rows], value)
        i = min(max(floor(at), 0), len(rows) - 2)
        return (rows[i][0] + (at - i) * (rows[i + 1][0] - rows[i][0])) / float(p.mark)

    def _table(self, value: float) -> float:
        """Along the printed table, from the end of the scale where the value is lowest."""
        p: Any = self.part
        rows = sorted((self._column(row), float(row.read)) for row in p.rows)
        at = _between([worth for worth, _ in rows], value, from_nothing=False)
        i = min(max(floor(at), 0), len(rows) - 2)
        read = rows[i][1] + (at - i) * (rows[i + 1][1] - rows[i][1])
        end = float(p.high) if self._falls else 0.0
        return abs(read - end) / float(p.mark) * (1 if (read <= end) == self._falls else -1)

    def _presence(self, value: float) -> float:
        return value

    def _looked(self, count: float) -> Reading:
        """A portion with *count* in it: each shows itself, or not; or something else does."""
        rates: Any = self.part.rates  # type: ignore[union-attr]
        found = any(self.rng.random() >= rates.missed for _ in range(round(count)))
        return Reading(int(found or self.rng.random() < rates.false_alarm))

    def _photometer(self, value: float) -> float:
        p: Any = self.part
        if p.shows == "concentration":
            return float(value * 10**p.decimals)
        absorbs = float(p.line.intercept) + float(p.line.slope) * value
        if p.shows == "absorbance":
            return float(absorbs * 10**p.decimals)
        return float((100 - 100 * 10**-absorbs) * 10**p.decimals)

    def _meter(self, value: float) -> float:
        p: Any = self.part
        shown = value * (1 - ALPHA * 5) if p.compensated_to == "20" else value
        return float(shown * 10 ** p.ranges[0].decimals)

    def _sensor(self, value: float) -> float:
        return float(value * 10**self.part.decimals)  # type: ignore[union-attr]

    def _disc(self, value: float) -> float:
        return value * 100 / self.part.mark_cm  # type: ignore[union-attr]

    def _tube(self, value: float) -> float:
        p: Any = self.part
        marks = [log(float(mark)) for mark in p.marks]
        return _between(marks, log(max(value, 1e-3)), from_nothing=False)

    def _printed_scale(self, value: float) -> float:
        return value / float(self.part.estimate)  # type: ignore[union-attr]

    def _graded(self, value: float) -> float:
        return value

    def _elsewhere(self, value: float) -> float:
        return float(value * 10**self.part.decimals)  # type: ignore[union-attr]

    # What is written down.

    def _seen(self, at: float) -> Reading:
        by = self.part.by
        if by in ("comparator", "strip-pad"):
            return self._shade(at)
        if by == "tube":
            return self._mark(at)
        if by == "disc":
            gap = abs(self.rng.normal(0, 0.4))
            down, up = max(floor(at + gap + 0.5), 0), max(floor(at - gap + 0.5), 0)
            return Reading(up, beside=(("vanishes", down),))
        if self._falls:
            shown = self._scale.high - floor(at + 0.5)
            if shown < self._scale.low:
                return Reading(self._scale.low, "beyond")
            if shown > self._scale.high and self._scale.under:
                return Reading(self._scale.high, "below")
            return Reading(min(shown, self._scale.high))
        return self._figure(at)

    def _figure(self, at: float) -> Reading:
        slot = self.reader.reading_fields[-1]
        scale = self.reader.scale(slot)
        beside: tuple[tuple[str, float], ...] = ()
        high = scale.high
        if self.part.by == "elsewhere":
            stated = max(2, round(0.12 * at))
            at += self.rng.logistic(0.0, stated / 2 * sqrt(3) / pi)
            beside = (("uncertainty", stated),)
        if self.part.by == "syringe":
            again = min(int(at // high), self.reader.scale("refills").high) if at > high else 0
            at, beside = at - again * high, (("refills", again),)
        if self.part.by == "meter":
            at, beside = self._on_display(at)
        n = floor(at + 0.5)
        if n > high and scale.over:
            return Reading(high, "beyond", beside)
        if n < scale.low and scale.under:
            return Reading(scale.low, "below", beside)
        return Reading(min(max(n, scale.low), high), beside=beside)

    def _on_display(self, at: float) -> tuple[float, tuple[tuple[str, float], ...]]:
        p: Any = self.part
        if p.take == "mean":
            return at, (("first", floor(at + 0.5)), ("second", floor(at + 0.5)))
        if p.compensated_to == "none":
            tenths = int(self.rng.integers(40, 280))
            return at * (1 + ALPHA * (tenths / 10 - 25)), (("temperature", tenths),)
        for one in self.reader.scale("reading").ranges:
            if at <= one.high * 10**one.zeros:
                return floor(at / 10**one.zeros + 0.5) * 10**one.zeros, ()
        return at, ()

    def _shade(self, at: float) -> Reading:
        p: Any = self.part
        parts = {"nearest": 1, "half": 2, "lower": 2, "bracket": 2, "estimate": 10}[p.rule]
        last = (len(p.shades) - 1) * parts
        n = floor(at * parts + 0.5)
        if n > last:
            return Reading(last, "beyond")
        if n < 0:
            return Reading(0, "below") if p.below_first else Reading(0)
        return Reading(n)

    def _mark(self, at: float) -> Reading:
        p: Any = self.part
        last = len(p.marks) - 1
        if at <= 0:
            return Reading(0, "below")
        if at > last:
            return Reading(last, "beyond")
        higher = floor(at) + (0 if at == floor(at) else 1)
        return Reading(higher if p.side == "next-higher" else min(floor(at), last - 1))

    def _tablets(self, value: float, bench: Bench) -> Reading:
        """Tablets dissolved one by one until they bind what is there."""
        p: Any = self.part
        each = self._sd("per-step", "determination")
        if self.rng.random() < self.slip:
            return Count(int(self.rng.integers(1, p.most + 1)))
        wanted = self.place(value) + self._eye() + bench.shift
        added = 0.0
        for n in range(1, p.most + 1):
            added += self._about_one(each)
            if added >= wanted:
                return Count(n)
        return Count(p.most, "beyond")


def _between(values: list[float], value: float, from_nothing: bool = True) -> float:
    """The place among *values*, straight between two of them and on beyond both ends; a scale
    *from_nothing* has nought one place below its first value."""
    i = min(max(bisect_left(values, value) - 1, 0), len(values) - 2)
    low, high = values[i], values[i + 1]
    if from_nothing and value < values[0] and values[0] > 0 and value >= 0:
        return -1 + value / values[0]
    return i + (value - low) / (high - low)
