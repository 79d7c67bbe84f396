"""The second simulator: right where it must be, and the interval holds what it draws."""

import unittest

import numpy as np

from kessa_core.simulation.dropwise import Dropwise, Hand, Table, run
from tests.builders.runs import big, reader


def simulator(seed: int, slip: float = 0.0) -> Dropwise:
    return Dropwise(big(), np.random.default_rng(seed), Hand(slip))


class DropByDrop(unittest.TestCase):
    def test_the_mean_count_follows_from_the_definition(self) -> None:
        """c V / 1000 E meq take c / f drops: at 62 mg/L 7.47, seen at the next whole one."""
        drawn = simulator(1)
        table = Table(0.0702, 0.050, 0.0)
        counts = [drawn.determination(62.0, table).n for _ in range(4000)]
        expected = 62 / reader(big()).counting.factor + 0.5
        self.assertAlmostEqual(float(np.mean(counts)), expected, delta=0.05)

    def test_a_stronger_bottle_needs_fewer_drops(self) -> None:
        """Ten percent stronger: about nine percent fewer."""
        means = []
        for strength in (0.0702, 0.0702 * 1.1):
            drawn, table = simulator(3), Table(strength, 0.05, 0.0)
            means.append(np.mean([drawn.determination(140.0, table).n for _ in range(2000)]))
        self.assertAlmostEqual(float((means[1] - 0.5) / (means[0] - 0.5)), 1 / 1.1, delta=0.01)

    def test_no_change_is_no_change(self) -> None:
        """Far above the range."""
        drawn = simulator(4)
        self.assertEqual(drawn.determination(900.0, drawn.table()).kind, "beyond")

    def test_the_interval_holds_the_truth(self) -> None:
        """1 500 runs with 2 % slips: 93 to 97 % (the proof itself is a benchmark)."""
        drawn, model = simulator(5, 0.02), reader(big()).counting
        rng, held, total = np.random.default_rng(6), 0, 0
        while total < 1500:
            truth = rng.uniform(0, 22 * model.factor)
            blanks, samples = run(drawn, truth)
            if samples[-1].kind != "beyond":
                total += 1
                held += model.interval(list(samples), list(blanks)).holds(truth)
        self.assertTrue(0.93 <= held / total <= 0.97, held / total)
