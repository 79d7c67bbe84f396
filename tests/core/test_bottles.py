"""A bottle's own drop, its bias from standards, and how ten or more bottles differ."""

import unittest
from math import sqrt

import numpy as np

from kessa_core.calculations import calculate
from kessa_core.errors import NotANumber
from kessa_core.quality.bottles import (
    Bias,
    bias,
    drop_by_filling,
    drop_by_weight,
    spread_of,
)


class Drops(unittest.TestCase):
    def test_by_filling_and_by_weight(self) -> None:
        """21 drops to the mark: 1 / 20.5 mL. Twenty drops of 1.010 g at 1.010: 0.050 mL."""
        self.assertAlmostEqual(drop_by_filling(21).ml, 1 / 20.5)
        self.assertAlmostEqual(drop_by_weight(20, 1.010, 1.010).ml, 0.050)

    def test_its_interval_holds_the_bottles_mean_drop(self) -> None:
        """Drops that scatter by 6 %, counted to a mark read to 1 %: 95 in a hundred."""
        rng, held = np.random.default_rng(11), 0
        for _ in range(2000):
            mean = rng.uniform(0.035, 0.065)
            filled = np.cumsum(rng.gamma(1 / 0.06**2, mean * 0.06**2, 80))
            drops = int(np.argmax(filled >= 1 + rng.normal(0, 0.01))) + 1
            found = drop_by_filling(drops)
            held += abs(found.ml / mean - 1) <= 1.96 * found.sd
        self.assertTrue(0.93 <= held / 2000 <= 0.97, held / 2000)

    def test_what_is_no_measurement(self) -> None:
        """Too few drops, no volume, no weight, no density."""
        for wrong in (
            lambda: drop_by_filling(9), lambda: drop_by_filling(20, 0.0),
            lambda: drop_by_weight(20, 0.0, 1.0), lambda: drop_by_weight(20, 1.0, float("nan")),
            lambda: drop_by_weight(5, 1.0, 1.0), lambda: bias([], 10, 1), lambda: bias([1], 0, 1),
            lambda: spread_of([Bias(0, 0.01)] * 9, 0.03), lambda: spread_of([Bias(0, 0)] * 10, 0),
        ):  # fmt: skip
            with self.assertRaises(NotANumber):
                wrong()

    def test_by_command(self) -> None:
        """The same figures from the command line, with their ends."""
        found = calculate("drop-size", {"drops": 21})
        self.assertAlmostEqual(found["drop_ml"], 1 / 20.5)
        self.assertTrue(found["low_ml"] < found["drop_ml"] < found["high_ml"])
        weighed = calculate("drop-size-weighed", {"grams": 1.0, "density_g_ml": 1.0})
        self.assertAlmostEqual(weighed["drop_ml"], 0.05)
        told = calculate("bottle-bias", {"found": [105, 107], "true": 100, "sd_one": 2})
        self.assertAlmostEqual(told["bias_percent"], 6.0)
        self.assertAlmostEqual(told["low_percent"], 6 - 1.96 * 2 / sqrt(2))


class Spread(unittest.TestCase):
    STATED, SD_ONE = 0.035, 0.026
    """Relative: the kit's bottles, and one determination of a standard of twenty drops."""

    def named(
        self, actual: float, bottles: int, determinations: int, sd_one: float = SD_ONE
    ) -> float:
        """How often bottles that scatter by *actual* are named, of 3 000 sets."""
        rng, found = np.random.default_rng(3), 0
        for _ in range(3000):
            biases = []
            for _ in range(bottles):
                size = rng.normal(0, actual)
                read = 100 * (1 + size + rng.normal(0, sd_one, determinations))
                biases.append(bias(list(read), 100, 100 * sd_one))
            found += spread_of(biases, self.STATED).too_wide
        return found / 3000

    def test_twice_the_stated_scatter_is_named(self) -> None:
        """In four cases of five at least: twelve bottles with three determinations each of a
        standard of twenty drops, or ten with a standard of forty. Bottles as stated: in one of a
        hundred at most."""
        self.assertGreaterEqual(self.named(2 * self.STATED, 12, 3), 0.80)
        self.assertGreaterEqual(self.named(2 * self.STATED, 10, 3, self.SD_ONE / 2), 0.80)
        for bottles in (10, 12):
            self.assertLessEqual(self.named(self.STATED, bottles, 3), 0.014)

    def test_the_test_is_the_printed_one(self) -> None:
        """Chi-squared, 99 %: 23.21 for ten, 26.22 for twelve."""
        for count, expected in ((10, 23.21), (12, 26.22)):
            size = sqrt(expected / count) * self.STATED
            for factor, wide in ((0.9998, False), (1.0002, True)):
                found = spread_of([Bias(size * factor, 0.0)] * count, self.STATED)
                self.assertEqual(found.too_wide, wide)
        self.assertIn("differ by 5.2 % (sd), the method says 3.5 %.", found.sentence)
        self.assertEqual(spread_of([Bias(0.03, 0.0)] * 10, self.STATED).sentence, "")
