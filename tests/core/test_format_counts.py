"""Counts as leaflets print them: a factor alone, what is taken off, nought as a reading."""

import unittest
from decimal import Decimal

from kessa_core.methods import Method, load
from kessa_core.methods.catalogue import shipped_text
from kessa_core.methods.load import InvalidDocument
from kessa_core.readings.reading import Count
from kessa_core.runs import fold
from tests.builders.documents import changed
from tests.builders.runs import Taps, outcome_of

STRENGTH = (
    "      normality_eq_l: 0.0702\n      drop_ml: 0.050\n      equivalent_weight_mg_meq: 35.45\n"
)


def by_factor(*more: tuple[str, str]) -> Method:
    """Chloride, 15 mL, as a leaflet that prints the factor and nothing else."""
    return changed("chloride-drops-15ml", (STRENGTH, ""), *more)


class FactorAlone(unittest.TestCase):
    def test_reports_what_the_strength_would(self) -> None:
        """8 drops: (8 − ½) × 8.3 = 62; the interval hardly differs from the full statement's."""
        bare, full = by_factor(), load(shipped_text("chloride-drops-15ml"))
        mine, theirs = (
            m.stages[0].reader().value([Count(8)] * 2, [Count(8)] * 2) for m in (bare, full)
        )
        self.assertEqual(mine.text, "62 mg/L as Cl")
        self.assertEqual(mine.text, theirs.text)
        self.assertAlmostEqual(mine.interval.low, theirs.interval.low, delta=0.2)
        self.assertIn("(drops − ½) × 8.3", bare.stages[0].reader().arithmetic)

    def test_strength_and_factor_are_held_against_each_other(self) -> None:
        """0.0702 × 0.05 × 35.45 × 1000 / 15 = 8.295: 8.3 follows, 8.4 does not."""
        with self.assertRaisesRegex(InvalidDocument, "they give 8.295 mg/L a drop"):
            changed("chloride-drops-15ml", ('factor: "8.3"', 'factor: "8.4"'))

    def test_another_unit_than_mg_l(self) -> None:
        """In mmol/L the same strength gives 8.295 / 35.45 = 0.234 a drop."""
        unit = ("unit: mg/L\n      decimals: 0", "unit: mmol/L\n      decimals: 2")
        fits = changed("chloride-drops-15ml", unit, ('factor: "8.3"', 'factor: "0.234"'))
        self.assertEqual(
            fits.stages[0].reader().value([Count(8)], [Count(8)]).text, "1.76 mmol/L as Cl"
        )
        with self.assertRaisesRegex(InvalidDocument, "0.23400 mmol/L a drop"):
            changed("chloride-drops-15ml", unit, ('factor: "8.3"', 'factor: "0.236"'))

    def test_own_drop_needs_the_kits(self) -> None:
        """Without the kit's drop volume a measured one says nothing."""
        self.assertIsNone(by_factor().stages[0].reader().own_drop)

    def test_n_times_k_less_o(self) -> None:
        """9 × 8.3 − 12 = 62.7, never below nothing; the middle already takes off a half."""
        method = by_factor(("most: 24", 'most: 24\n      prints: upper-edge\n      minus: "12"'))
        reader = method.stages[0].reader()
        self.assertEqual(reader.number(Count(9)), Decimal("62.7"))
        self.assertEqual(reader.number(Count(1)), Decimal(0))
        nine = [Count(9)] * 2
        self.assertIn("9 × 8.3 − 12", reader.working(nine[:1], [], reader.value(nine, nine)))
        with self.assertRaisesRegex(InvalidDocument, "takes off a half"):
            by_factor(("most: 24", 'most: 24\n      minus: "12"'))

    def test_tablets_less_a_given_amount(self) -> None:
        """4 × 15 − 10 = 50."""
        method = changed("hardness-tablets", ("offset: half", 'offset: given\n      minus: "10"'))
        self.assertEqual(method.stages[0].reader().number(Count(4)), 50)
        with self.assertRaisesRegex(InvalidDocument, "minus belongs to offset: given"):
            changed("hardness-tablets", ("offset: half", "offset: given"))


class Nought(unittest.TestCase):
    def setUp(self) -> None:
        self.method = load(shipped_text("sulphite-drops"))
        self.reader = self.method.stages[0].reader()

    def test_turned_before_the_first_drop(self) -> None:
        """Two ends at once: 0 mg/L, an interval from nothing to about a drop."""
        taps = Taps(self.method).before()
        for _ in range(2):
            taps.steps("sample").act("end").act("next")
        outcome = outcome_of(self.method, fold(self.method, taps.events))
        self.assertEqual((outcome.finish, outcome.value.figure), ("done", "0"))
        self.assertEqual(outcome.value.interval.low, 0.0)
        self.assertLess(outcome.value.interval.high, 5.0)
        self.assertIn("0, turned before the first", outcome.working)

    def test_without_it_nought_is_no_end(self) -> None:
        """Another kit does not take it."""
        taps = Taps().before().steps("blank").act("end")
        self.assertIn("nothing has been added", fold(Taps().method, taps.events).ignored[-1][1])

    def test_one_drop_is_no_longer_perhaps_nothing(self) -> None:
        """Where nought would have been said, one drop lies between 0 and 1 and not below."""
        self.assertEqual(self.reader.edges(Count(1)), (0, 1))
        self.assertEqual(self.reader.edges(Count(0)), (float("-inf"), 0))
        self.assertEqual(self.reader.edges(Count(1, "doubt")), (float("-inf"), 1))

    def test_doubt_between_nought_and_one(self) -> None:
        """ "0 or 1" can be said; below nought there is no count."""
        state = fold(
            self.method, Taps(self.method).before().steps("sample").drops(1).act("end")
            .act("doubt").act("next").events,
        )  # fmt: skip
        self.assertEqual(state.stage.samples[0].kind, "doubt")
        none = Taps(self.method).before().steps("sample").act("end").act("doubt")
        self.assertIn("no count below", fold(self.method, none.events).ignored[-1][1])

    def test_a_correction_to_nought(self) -> None:
        """Taken where nought is a reading; refused elsewhere."""
        taps = Taps(self.method).before().count(1).count(1).correct("first-1", 0)
        self.assertEqual(fold(self.method, taps.events).stage.samples[0].count, 0)
        other = Taps().before().count(1, "blank").count(7).correct("first-1", 0)
        self.assertIn("below the first count", fold(other.method, other.events).ignored[-1][1])
