"""Round steps on drawn scales."""

import unittest

from kessa.ui.ticks import round_step, whole_step


class Ticks(unittest.TestCase):
    def test_the_next_round_step(self) -> None:
        """1, 2 or 5 times a power of ten, not below what is asked."""
        for least, step in ((0.03, 0.05), (0.05, 0.05), (1, 1), (1.2, 2), (21, 50), (600, 1000)):
            with self.subTest(least=least):
                self.assertAlmostEqual(round_step(least), step, 9)

    def test_whole_steps_are_at_least_one(self) -> None:
        """For scales that count in whole places."""
        self.assertEqual([whole_step(least) for least in (0.1, 1.0, 2.4, 50)], [1, 1, 5, 50])
