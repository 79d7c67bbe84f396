"""Limit sets as documents: when, where and for what a limit holds, how its rule compares, and what
one sample is worth against it."""

import unittest
from datetime import date

from kessa_core.documents.load import InvalidDocument
from kessa_core.judging import judge, limit_set, limit_sets, verdict
from kessa_core.judging.limit_sets import load_limits
from kessa_core.judging.limits import DECIDED_BY, Limit
from kessa_core.judging.verdict import verdicts_on
from kessa_core.quantities import Interval, Quantity, Value

TODAY = date(2026, 11, 29)


def limit(set_id: str, limit_id: str) -> Limit:
    return next(one for one in limit_set(set_id).limits if one.id == limit_id)


def value(of: Limit | Quantity, number: float, low: float, high: float, decimals: int = 2,
          qualifier: str = "") -> Value:  # fmt: skip
    quantity = of if isinstance(of, Quantity) else of.quantity
    interval = Interval(None if qualifier == "<" else low, None if qualifier == ">" else high)
    return Value(quantity, number, decimals, interval, qualifier)


class Shipped(unittest.TestCase):
    def test_each_says_what_it_rests_on(self) -> None:
        """A document for every number that is not a demo's target, and none of those is legal."""
        for held in limit_sets().values():
            for one in held.limits:
                with self.subTest(held.id, limit=one.id):
                    self.assertTrue(one.document)
                    made_up = "made-up" in one.document
                    self.assertEqual(made_up, "made up" in held.edition)
                    if made_up:
                        self.assertEqual(one.tier, "treatment target")

    def test_published_numbers(self) -> None:
        """Figures, units, bases and statistics as their documents print them."""
        for set_id, limit_id, says in (
            ("us-epa-drinking", "nitrate",
             ("10", "mg/L as N", "mean of the sample and its confirmation")),
            ("us-epa-drinking", "lead-action", ("0.015", "mg/L as Pb", "90th percentile")),
            ("us-epa-drinking", "free-chlorine", ("4.0", "mg/L as Cl₂", "running annual average")),
            ("us-epa-drinking", "ph", ("6.5–8.5", "pH", "each sample")),
            ("who-drinking", "nitrite", ("3", "mg/L as NO₂", "short-term exposure")),
            ("eu-drinking", "nitrite", ("0.50", "mg/L as NO₂", "each sample")),
            ("eu-drinking", "lead", ("10", "µg/L as Pb", "each sample")),
            ("ccme-freshwater", "oxygen-cold-early", ("at least 9.5", "mg/L", "each sample")),
            ("ccme-freshwater", "nitrite", ("0.06", "mg/L as N", "each sample")),
            ("shell-boiler", "feed-hardness", ("0.01", "mmol/L as CaCO₃", "each sample")),
            ("shell-boiler", "boiler-alkalinity", ("1–15", "mmol/L as CaCO₃", "each sample")),
            ("heating-loop", "ph-aluminium", ("8.2–9.0", "pH", "each sample")),
        ):  # fmt: skip
            found = limit(set_id, limit_id)
            with self.subTest(set_id, limit=limit_id):
                got = (found.bounds_text, found.quantity.label, found.statistic)
                self.assertEqual(got, says)

    def test_the_last_day_and_the_first(self) -> None:
        """The action level for lead is 0.015 to the end of October 2027, and 0.010 from then on."""
        held = limit_set("us-epa-drinking")
        for day, figure in ((date(2027, 10, 31), "0.015"), (date(2027, 11, 1), "0.010")):
            found = [one.max for one in held.holding(day, "", ()).limits if one.parameter == "lead"]
            with self.subTest(day=day):
                self.assertEqual(found, [figure])
        self.assertEqual(held.turns, (date(2027, 11, 1),))
        self.assertEqual(limit_set("eu-drinking").turns, (date(2036, 1, 13),))

    def test_by_part_and_by_what_is_known_of_the_water(self) -> None:
        """Feed and boiler water apart; aluminium, fish and their eggs, disinfection."""
        for set_id, part, traits, parameter, figures in (
            ("shell-boiler", "feed", (), "ph", ["at least 9.2"]),
            ("shell-boiler", "boiler", (), "ph", ["10.5–12.0"]),
            ("shell-boiler", "", (), "ph", []),
            ("shell-boiler", "condensate", (), "ph", []),
            ("heating-loop", "", (), "ph", ["8.2–10.0"]),
            ("heating-loop", "system", ("aluminium",), "ph", ["8.2–9.0"]),
            ("ccme-freshwater", "", (), "oxygen", ["at least 5.5"]),
            ("ccme-freshwater", "", ("cold-water fish",), "oxygen", ["at least 6.5"]),
            ("ccme-freshwater", "", ("early life", "cold-water fish"), "oxygen", ["at least 9.5"]),
            ("eu-drinking", "tap", (), "chlorite", ["0.25"]),
            ("eu-drinking", "tap", ("chlorine dioxide",), "chlorite", ["0.70"]),
            ("eu-drinking", "treated", (), "nitrite", ["0.50", "0.10"]),
            ("eu-drinking", "tap", (), "nitrite", ["0.50"]),
        ):  # fmt: skip
            limits = limit_set(set_id).holding(TODAY, part, traits).limits
            with self.subTest(set_id, part=part, traits=traits, parameter=parameter):
                found = [one.bounds_text for one in limits if one.parameter == parameter]
                self.assertEqual(found, figures)


class Compared(unittest.TestCase):
    def test_nitrate_in_two_bases(self) -> None:
        """42 as NO3 is 9.5 as N: too close to call against 10, within 50."""
        nitrate = value(Quantity("nitrate", "total", "NO3", "mg/L"), 42, 38, 47, 0)
        legal, guideline = limit("us-epa-drinking", "nitrate"), limit("who-drinking", "nitrate")
        self.assertEqual(judge(nitrate, legal).sign, "close")
        self.assertEqual(judge(nitrate, guideline).sign, "within")
        as_n = nitrate.converted(basis="N")
        self.assertAlmostEqual(as_n.number, 9.49, places=2)

    def test_a_limit_that_a_method_cannot_see(self) -> None:
        """< 0.05 against 0.02."""
        strict = limit("ccme-freshwater", "nitrite").model_copy(update={"max": "0.02"})
        found = judge(value(strict, 0.05, 0, 0.05, 2, "<"), strict)
        self.assertEqual((found.sign, found.words), ("close", verdict.UNSEEN))

    def test_at_the_limits_own_figures(self) -> None:
        """Iron 0.34 is above 0.3, and 0.3 as the rule rounds; 0.35 is 0.4 by the rule too."""
        iron = limit("us-epa-drinking", "iron")
        above = judge(value(iron, 0.34, 0.32, 0.36), iron)
        self.assertEqual((above.sign, above.reported_sign), ("beyond", "within"))
        self.assertIn("at the limit’s own figures: 0.3 against 0.3 is within", above.as_printed)
        both = judge(value(iron, 0.35, 0.33, 0.37), iron)
        self.assertEqual((both.reported_sign, both.as_printed), ("beyond", ""))

    def test_halves_zeros_and_figures(self) -> None:
        """One figure, two and three; half a step up; nought; a figure that grows by rounding."""
        for limit_id, number, decimals, sign in (
            ("manganese", 0.0549, 4, "within"),
            ("manganese", 0.055, 3, "beyond"),
            ("manganese", 0.0, 3, "within"),
            ("arsenic", 0.0104, 4, "within"),
            ("arsenic", 0.0105, 4, "beyond"),
            ("chloride", 250.4, 1, "within"),
            ("chloride", 250.5, 1, "beyond"),
            ("fluoride", 4.04, 2, "within"),
            ("ph", 6.44, 2, "beyond"),
            ("ph", 6.45, 2, "within"),
            ("ph", 8.54, 2, "within"),
            ("ph", 8.55, 2, "beyond"),
        ):
            rule = limit("us-epa-drinking", limit_id)
            with self.subTest(limit_id, number=number):
                got = judge(value(rule, number, number, number, decimals), rule)
                self.assertEqual(got.reported_sign, sign)

    def test_one_sample_against_what_many_decide(self) -> None:
        """Chlorine at 4.6 is flagged and not above the limit; the running average decides. Below it
        is within. The same for each such statistic."""
        rule = limit("us-epa-drinking", "free-chlorine")
        found = judge(value(rule, 4.6, 4.4, 4.8), rule)
        self.assertEqual((found.sign, found.words), ("close", "one sample above limit"))
        self.assertIn("is above the maximum residual level", found.sentence)
        self.assertIn("This is one sample: the running annual average decides.", found.sentence)
        self.assertEqual(found.as_printed, "")
        self.assertEqual(judge(value(rule, 3.0, 2.8, 3.2), rule).sign, "within")
        for statistic in DECIDED_BY:
            other = rule.model_copy(update={"statistic": statistic})
            with self.subTest(statistic):
                self.assertEqual(judge(value(other, 4.6, 4.4, 4.8), other).sign, "close")

    def test_one_sample_against_a_long_term_guideline(self) -> None:
        """Chloride at 140 against 120: above it, and said to be one sample."""
        rule = limit("ccme-freshwater", "chloride-long")
        found = judge(value(rule, 140, 130, 150, 0), rule)
        self.assertEqual(found.sign, "beyond")
        self.assertIn("This is one sample against a long-term guideline.", found.sentence)

    def test_a_bound_in_another_unit(self) -> None:
        """< 0.005 mg/L of lead meets 10 µg/L; < 0.02 cannot see it."""
        lead = limit("eu-drinking", "lead")
        milligrams = Quantity("lead", "total", "Pb", "mg/L")
        for number, sign in ((0.005, "within"), (0.02, "close")):
            with self.subTest(number=number):
                bound = value(milligrams, number, 0, number, 3, "<")
                self.assertEqual(verdicts_on(bound, [lead])[0].sign, sign)


class Refused(unittest.TestCase):
    TEXT = """id: own
edition: "1"
title: Our own
note: Ours.
limits:
  - id: one
    name: target
    parameter: chloride
    form: total
    basis: Cl
    unit: mg/L
    max: "200"
    tier: {tier}
    statistic: each sample
    within: Fine.
    beyond: Not fine.
    {more}
"""

    def test_a_target_needs_no_document_a_legal_limit_does(self) -> None:
        text = self.TEXT.format(tier="treatment target", more="")
        self.assertIsNone(load_limits(text).limits[0].document)
        for tier in ("legal limit", "action level"):
            with self.subTest(tier), self.assertRaisesRegex(InvalidDocument, "needs its document"):
                load_limits(self.TEXT.format(tier=tier, more=""))

    def test_what_cannot_be(self) -> None:
        for more, says in (
            ("having: [goldfish]", "not known of any water: goldfish"),
            ("begins: 2027-01-02\n    ends: 2027-01-01", "ends before it begins"),
            ("rounding: upwards", "rounding"),
            ('min: "300"', "lies above max"),
        ):
            with self.subTest(more), self.assertRaisesRegex(InvalidDocument, says):
                load_limits(self.TEXT.format(tier="alert", more=more))
