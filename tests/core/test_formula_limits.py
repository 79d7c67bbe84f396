"""Limits that follow from what else was measured, and limits for some months of the year."""

import unittest
from datetime import UTC, date, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from kessa_core.derived.deriving import Measured, Place
from kessa_core.documents.load import InvalidDocument
from kessa_core.judging import Limit, judge, limit_set
from kessa_core.judging.context import PointContext
from kessa_core.judging.formulas import FORMULAS, table
from kessa_core.judging.limit_sets import load_limits
from kessa_core.judging.verdict import most_serious_verdict, verdicts_on
from kessa_core.quantities import Interval, Quantity, Value

AT = datetime(2026, 3, 31, 23, 30, tzinfo=UTC)
PH = Quantity("ph", "total", "", "pH")
WARMTH = Quantity("temperature", "water", "", "°C")
HARDNESS = Quantity("hardness", "total", "CaCO3", "mg/L")
DEGREES = Quantity("hardness", "total", "CaCO3", "°dH")
AMMONIA = Quantity("ammonia", "total", "N", "mg/L")
COPPER = Quantity("copper", "dissolved", "Cu", "mg/L")


def measured(quantity: Quantity, number: float, half: float = 0.0, hours: float = 0) -> Measured:
    value = Value(quantity, number, 2, Interval(number - half, number + half))
    return Measured(value, AT - timedelta(hours=hours))


def limit(key: str) -> Limit:
    return next(one for one in limit_set("epa-freshwater").limits if one.id == key)


def of(key: str, *known: Measured) -> Limit:
    """The limit for a sample of which this was measured."""
    return limit(key).for_sample(known, AT, Place())


def ammonia(number: float, half: float) -> Value:
    return Value(AMMONIA, number, 2, Interval(number - half, number + half))


class Formulas(unittest.TestCase):
    def test_figures_of_the_documents(self) -> None:
        """Ammonia at pH 7 and 20 °C as EPA-822-R-13-001 states them; dissolved copper at a hardness
        of 100 as the recommended criteria of 2002 print them."""
        for key, inputs, says in (
            ("ammonia-acute", (measured(PH, 7.0), measured(WARMTH, 20.0)), "17"),
            ("ammonia-chronic", (measured(PH, 7.0), measured(WARMTH, 20.0)), "1.9"),
            ("copper-dissolved-acute", (measured(HARDNESS, 100),), "13"),
            ("copper-dissolved-chronic", (measured(HARDNESS, 100),), "9.0"),
        ):
            with self.subTest(key):
                self.assertEqual(of(key, *inputs).max, says)

    def test_the_inputs_are_named(self) -> None:
        found = of("ammonia-acute", measured(PH, 8.1, 0.2), measured(WARMTH, 14.2, 0.5))
        said = judge(ammonia(12, 0.5), found).sentence
        self.assertIn(f"acute guideline of {found.max} (pH 8.10 and Temperature 14.20 °C)", said)

    def test_the_range_of_the_inputs_counts(self) -> None:
        """Beyond only where the value is beyond whatever the pH allows; close between."""
        sure = of("ammonia-acute", measured(PH, 8.0), measured(WARMTH, 12.0))
        unsure = of("ammonia-acute", measured(PH, 8.0, 0.3), measured(WARMTH, 12.0))
        self.assertEqual(sure.max, unsure.max)
        least, most = unsure.most
        self.assertLess(least, float(unsure.max or 0))
        self.assertLess(float(unsure.max or 0), most)
        for number, with_sure, with_unsure in (
            (least * 0.9, "within", "within"),
            ((least + float(sure.max or 0)) / 2, "within", "close"),
            ((most + float(sure.max or 0)) / 2, "beyond", "close"),
            (most * 1.1, "beyond", "beyond"),
        ):
            with self.subTest(number=number):
                got = ammonia(number, 0.001)
                self.assertEqual(judge(got, sure).sign, with_sure)
                self.assertEqual(judge(got, unsure).sign, with_unsure)

    def test_without_an_input_it_says_which(self) -> None:
        """Neither left out in silence nor judged: why, and the other limits lead."""
        found = of("ammonia-chronic", measured(PH, 7.5))
        told = judge(ammonia(1, 0.1), found)
        self.assertEqual(told.sign, "none")
        self.assertEqual(
            told.sentence,
            "The chronic guideline depends on pH and water temperature: water temperature was not "
            "measured with this sample.",
        )
        fixed = Limit.model_validate(
            found.model_dump() | {"id": "fixed", "formula": None, "computed": "", "max": "0.5"}
        )
        here = PointContext((found, fixed)).of(AMMONIA)
        made = verdicts_on(ammonia(1, 0.1), here.limits)
        self.assertEqual([one.sign for one in made], ["none", "beyond"])
        self.assertEqual(most_serious_verdict(made).limit, fixed)

    def test_what_it_is_given_for(self) -> None:
        """pH 6.5 and 9.0 yes, 9.1 no; hardness 25 and 400 yes, 24 no."""
        for key, known, computed in (
            ("ammonia-acute", (measured(PH, 6.5), measured(WARMTH, 0)), True),
            ("ammonia-acute", (measured(PH, 9.0), measured(WARMTH, 30)), True),
            ("ammonia-acute", (measured(PH, 9.1), measured(WARMTH, 20)), False),
            ("copper-acute", (measured(HARDNESS, 25),), True),
            ("copper-acute", (measured(HARDNESS, 400),), True),
            ("copper-acute", (measured(HARDNESS, 24),), False),
        ):  # fmt: skip
            with self.subTest(key, known=known):
                self.assertEqual(of(key, *known).max is not None, computed)

    def test_the_end_of_a_range_beyond_what_it_is_given_for(self) -> None:
        """pH 8.9 to 9.3: the last value that is given stands for what lies beyond."""
        found = of("ammonia-acute", measured(PH, 9.0, 0.3), measured(WARMTH, 20.0))
        self.assertAlmostEqual(found.most[0], FORMULAS["ammonia acute"].compute(9.0, 20.0), 2)

    def test_how_old_an_input_may_be(self) -> None:
        """pH of two hours, not of three; hardness of days, with its age said."""
        for hours, computed in ((0, True), (2, True), (3, False), (-2, True), (-3, False)):
            got = of("ammonia-acute", measured(PH, 7, hours=hours), measured(WARMTH, 10))
            with self.subTest(hours=hours):
                self.assertEqual(got.max is not None, computed)
        for hours, says in ((5, ", 5 h before"), (24 * 8, ", 8 days before"), (24 * 8 + 1, "")):
            got = of("copper-acute", measured(HARDNESS, 100, hours=hours))
            with self.subTest(hours=hours):
                self.assertEqual(got.max is not None, bool(says))
                self.assertIn(says, got.computed)

    def test_a_value_in_another_unit(self) -> None:
        """Copper in mg/L against µg/L, hardness in °dH."""
        found = of("copper-dissolved-acute", measured(DEGREES, 5.6, 0.1))
        self.assertEqual(found.max, "13")
        held = judge(Value(COPPER, 0.02, 3, Interval(0.018, 0.022)), found)
        self.assertEqual(held.sign, "beyond")
        self.assertEqual(found.quantity.label, "µg/L as Cu")

    @given(st.floats(6.5, 9.0), st.floats(0, 30), st.floats(0, 0.3), st.floats(0, 1))
    def test_what_is_printed_lies_between(
        self, ph: float, warm: float, ph_half: float, warm_half: float
    ) -> None:
        for key in ("ammonia-acute", "ammonia-chronic"):
            got = of(key, measured(PH, ph, ph_half), measured(WARMTH, warm, warm_half))
            least, most = got.most
            self.assertLessEqual(least, float(got.max or 0))
            self.assertGreaterEqual(most, float(got.max or 0))

    def test_as_a_table(self) -> None:
        heads, rows = table("ammonia acute")
        self.assertEqual(heads[0], "5 °C")
        self.assertEqual(rows[0][0], "pH 6.5")
        self.assertEqual(len(rows[0][1]), len(heads))
        heads, rows = table("copper acute")
        self.assertEqual((heads[2], rows[0][1][2]), ("100 mg/L", "14"))


SET = """
id: own
edition: "1"
title: Own
note: Own.
limits:
  - {id: one, name: own, parameter: ammonia, form: total, basis: N, unit: mg/L, tier: guideline,
     statistic: each sample, within: Well., beyond: Ill.%s}
"""


class Documents(unittest.TestCase):
    def test_a_formula_stands_alone(self) -> None:
        """A figure beside it, or another unit than it gives, is refused with where."""
        load_limits(SET % ", formula: ammonia acute")
        for more, says in (
            (', formula: ammonia acute, max: "3"', "leave min and max out"),
            (", formula: copper acute", "the formula is for total copper in µg/L as Cu"),
            (", formula: ammonia", "formula"),
            (", formula: dissolved copper acute", "is for dissolved copper"),
            ("", "needs min, max or a formula"),
        ):
            with self.subTest(more), self.assertRaises(InvalidDocument) as caught:
                load_limits(SET % more)
            self.assertIn(says, str(caught.exception) + str(caught.exception.problems))

    def test_seasons(self) -> None:
        """The last day of a month and the first of the next; groups of months; in words."""
        held = load_limits(SET % ', max: "1", months: [4, 5, 6, 7, 8, 9, 10]')
        one = held.limits[0]
        for day, holds in (
            (date(2026, 3, 31), False), (date(2026, 4, 1), True),
            (date(2026, 10, 31), True), (date(2026, 11, 1), False),
        ):  # fmt: skip
            with self.subTest(day=day):
                self.assertEqual(one.holds(day, "", ()), holds)
                self.assertEqual(len(held.holding(day, "", ()).limits), holds)
        self.assertEqual(held.seasons, ((1, 2, 3, 11, 12), (4, 5, 6, 7, 8, 9, 10)))
        self.assertIn("For samples of April to October.", one.conditions)
        winter = load_limits(SET % ', max: "1", months: [12, 1, 2]').limits[0]
        self.assertIn("For samples of December to February.", winter.conditions)
        self.assertEqual(limit_set("epa-freshwater").seasons, ())
