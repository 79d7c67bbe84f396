"""The uncertainty budget: parts that add up, the largest named first, narrowers that narrow."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from kessa_core.quality.budget import Budget, budget
from kessa_core.readings.reading import Count
from tests.builders.runs import big, reader

ONE = [Count(1)]


def of(*drops: int, blanks=ONE) -> Budget:
    found = budget(reader(), [Count(n) for n in drops], blanks)
    assert found
    return found


class Parts(unittest.TestCase):
    def test_what_leads_where(self) -> None:
        """Few drops: the whole step; some: the eye; many: the bottle; three apart: the readings."""
        for drops, leading in (
            ((2, 2), "step"), ((7, 8), "eye"), ((22, 21), "drop-size"),
            ((7, 12, 8), "step"),
        ):  # fmt: skip
            with self.subTest(drops=drops):
                self.assertEqual(of(*drops).parts[0].of, leading)

    def test_each_part_says_whose_figure_it_is(self) -> None:
        """Maker, Kessa's default, the kit; its size and what shares it."""
        parts = {part.of: part for part in of(7, 8).parts}
        self.assertEqual(
            (parts["strength"].whose, parts["strength"].size), ("the maker’s value", "sd 1 %")
        )
        self.assertEqual(parts["eye"].size, "sd 0.3 drops")
        self.assertEqual(parts["drop-size"].scope, "shared by one bottle")
        self.assertEqual(parts["colour-need"].size, "0–0.4 drops")

    @settings(max_examples=25)
    @given(st.lists(st.integers(1, 22), min_size=1, max_size=3), st.sampled_from((1, 2)))
    def test_for_every_run(self, drops: list[int], blank: int) -> None:
        """Parts are shares that add up to one, largest first; each narrower is narrower."""
        found = of(*drops, blanks=[Count(blank)])
        shares = [part.share for part in found.parts]
        self.assertAlmostEqual(sum(shares), 1)
        self.assertEqual(shares, sorted(shares, reverse=True))
        self.assertGreaterEqual(min(shares), 0)
        widths = [one.width for one in found.narrowers]
        self.assertEqual(widths, sorted(widths))
        self.assertTrue(all(0 < width < found.width for width in widths))

    def test_the_width_is_that_of_the_interval(self) -> None:
        """No second notion of uncertainty."""
        interval = reader(big()).counting.interval([Count(7), Count(8)], ONE)
        self.assertAlmostEqual(of(7, 8).width, interval.high - interval.low)

    def test_a_bound_has_no_budget(self) -> None:
        """Neither "no change" nor nothing at all."""
        self.assertIsNone(budget(reader(), [Count(24, "beyond")], ONE))
        self.assertIsNone(budget(reader(), [], ONE))
