"""The second simulator: what it draws, and that intervals hold against it."""

import unittest
from statistics import mean

import numpy as np

from kessa_core.methods import shipped
from kessa_core.methods.stage import Stage
from kessa_core.readings.registry import READERS
from kessa_core.simulation.independent import Bench, IndependentSimulator

STILL = Bench(1.0, 0.0)
PLACES = (
    ("hardness-burette", 100.0, 200.0), ("alkalinity-titrator", 40.0, 50.0),
    ("chloride-strip-height", 118.0, 17.0), ("phosphate-photometer", 1.2, 120.0),
    ("conductivity-meter-20", 935.42, 846.1), ("disc-on-rope", 2.3, 46.0),
    ("nitrate-comparator", 2.5, 3.5), ("glycol-refractometer", 34.0, 34.0),
    ("thermometer", 11.5, 23.0), ("sight-tube", 30.0, 6.0),
)  # fmt: skip


def stage(method: str) -> Stage:
    return shipped(method).stages[0]


class SecondSimulator(unittest.TestCase):
    def test_places_follow_from_the_published_relation(self) -> None:
        """Titrant volume, straight line, temperature, depth, logarithm: by hand."""
        for method, value, place in PLACES:
            with self.subTest(method=method):
                found = IndependentSimulator(stage(method), np.random.default_rng(1)).place(value)
                self.assertAlmostEqual(found, place, delta=max(0.01 * abs(place), 0.3))

    def test_every_principle_but_drops_has_a_place(self) -> None:
        """A new principle is simulated here too."""
        for by in set(READERS) - {"drop-count"}:
            self.assertTrue(hasattr(IndependentSimulator, "_" + by.replace("-", "_")), by)

    def test_readings_scatter_about_the_place(self) -> None:
        """Without a slip, the mean of many lies where the value stands."""
        for method, value, place in PLACES[:4]:
            with self.subTest(method=method):
                drawn = IndependentSimulator(stage(method), np.random.default_rng(2), slip=0.0)
                reader = stage(method).reader()
                seen = [
                    reader.half_steps(drawn.determination(value, STILL)) / 2 for _ in range(200)
                ]
                self.assertAlmostEqual(mean(seen), place, delta=max(0.02 * place, 0.5))

    def test_intervals_hold_in_a_world_that_is_not_the_models(self) -> None:
        """Single readings of every shipped example, 60 each: about 95 in 100 hold the truth. The
        long run is docs/science/coverage.md."""
        hits = total = 0
        for method, value, _ in PLACES:
            drawn, reader = (
                IndependentSimulator(stage(method), np.random.default_rng(3)),
                stage(method).reader(),
            )
            for _ in range(60):
                seen = drawn.determination(value, drawn.bench())
                outside = seen.kind in ("beyond", "below")
                found = reader.bound(seen) if outside else reader.value([seen], [seen])
                hits += found.interval.holds(value)
                total += 1
        self.assertTrue(0.92 <= hits / total <= 0.99, hits / total)
