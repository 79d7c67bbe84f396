"""From state to outcome: the figures that a person reads."""

import unittest

from kessa_core.methods import load
from kessa_core.methods.catalogue import shipped_text
from kessa_core.runs import Outcome, fold
from tests.builders.runs import Taps, outcome_of, small, walk


def outcome(taps: Taps) -> Outcome:
    return outcome_of(taps.method, fold(taps.method, taps.events))


class Values(unittest.TestCase):
    def test_reported_values_and_working_lines(self) -> None:
        """Mean count less a half, times the printed factor; the rule picks which determinations."""
        for samples, text, used, line in (
            ((7, 8), "58 mg/L as Cl", 2, "7, 8 drops: (mean 7.5 − ½) × 8.3 = 58 mg/L as Cl"),
            ((7, 12, 8), "58 mg/L as Cl", 2, "7, 8 drops: (mean 7.5 − ½) × 8.3 = 58 mg/L as Cl"),
            ((7, 9, 8), "62 mg/L as Cl", 3, "7, 9, 8 drops: (mean 8 − ½) × 8.3 = 62 mg/L as Cl"),
            ((13, 13), "104 mg/L as Cl", 2, "13, 13 drops: (mean 13 − ½) × 8.3 = 104 mg/L as Cl"),
            ((15, 14), "116 mg/L as Cl", 2, "15, 14 drops: (mean 14.5 − ½) × 8.3 = 116 mg/L as Cl"),
        ):
            with self.subTest(samples=samples):
                got = outcome(walk(samples))
                self.assertEqual((got.value.text, len(got.used), got.working), (text, used, line))

    def test_not_repeatable_has_no_value_and_says_why(self) -> None:
        """7, 12, 17: all three named."""
        got = outcome(walk((7, 12, 17)))
        self.assertIsNone(got.value)
        self.assertEqual(got.cause, "7, 12, 17 drops: no two agree within 1")

    def test_out_of_range_keeps_a_bound_rounded_down(self) -> None:
        """24 drops without change: "> 199" with the large portion, "> 597" with the small one."""
        for method, figure in ((None, "> 199"), (small(), "> 597")):
            got = outcome(Taps(method).before().count(1, "blank").beyond())
            with self.subTest(figure=figure):
                self.assertEqual(got.value.figure, figure)
                self.assertIsNone(got.value.interval.high)
                self.assertLess(got.value.interval.low, got.value.number)

    def test_doubt_is_reported_as_the_half_and_widens_the_interval(self) -> None:
        """Doubt between 7 and 8, then 8: mean 7.75 drops, a wider interval than 8 and 8."""
        doubt = outcome(Taps().before().count(1, "blank").count(8, how="doubt").count(8))
        sure = outcome(walk((8, 8), blank=1))
        self.assertEqual(doubt.working, "7.5, 8 drops: (mean 7.75 − ½) × 8.3 = 60 mg/L as Cl")
        self.assertLess(doubt.value.interval.low, sure.value.interval.low)

    def test_the_interval_uses_every_determination_that_was_kept(self) -> None:
        """The odd one out of three is not in the mean, and the interval still knows it."""
        two = outcome(walk((7, 8)))
        three = outcome(walk((7, 12, 8)))
        self.assertNotEqual(two.value.interval, three.value.interval)

    def test_a_figure_that_lies_apart_by_choice_is_explained(self) -> None:
        """Whole drops: one sentence where a drop is much of the interval; the middle of the drop
        needs none, for a blank of one or two."""
        whole = load(
            shipped_text("chloride-drops-15ml").replace(
                "      most: 24", "      prints: upper-edge\n      most: 24"
            )
        )
        for samples in ((2, 3), (4, 4), (7, 8)):
            got = outcome(walk(samples, blank=1, method=whole))
            with self.subTest(samples=samples):
                self.assertIn("counts the whole last drop", got.apart)
                self.assertNotIn("½", got.working)
                for blank in (1, 2):
                    ours = outcome(walk(samples, blank=blank))
                    self.assertEqual(ours.apart, "")
                    self.assertTrue(ours.value.lies_in_the_middle)

    def test_a_method_that_subtracts_takes_the_blank_off_once(self) -> None:
        """7 and 8 less a blank of 1: 6.5 drops; never below zero."""
        text = shipped_text("chloride-drops-15ml").replace("subtract: false", "subtract: true")
        taps = walk((7, 8), blank=1, method=load(text))
        self.assertEqual(
            outcome(taps).working, "7, 8 drops: (mean 7.5 less blank 1) × 8.3 = 54 mg/L as Cl"
        )
        self.assertEqual(outcome(walk((1, 1), blank=2, method=load(text))).value.number, 0)

    def test_an_unfinished_run_has_no_value(self) -> None:
        """One determination is not a result yet."""
        self.assertIsNone(outcome(walk((7,))).value)
