"""Verdicts follow from the interval; the rule's own verdict stands beside them."""

import unittest
from dataclasses import replace

import numpy as np
from scipy.special import ndtr

from kessa_core.errors import UnknownName
from kessa_core.influences.intervals import normal_nodes, uniform_nodes
from kessa_core.judging import gauge, judge, limit_set, limit_sets, most_serious_verdict
from kessa_core.judging.decide import sentence, suggest_next_steps
from kessa_core.methods import Method, shipped
from kessa_core.quantities import Interval, Quantity, Value
from kessa_core.quantities.species import factor
from kessa_core.readings.reading import Count
from kessa_core.runs import fold
from tests.builders.runs import big, outcome_of, reader, small, walk

LONG, SHORT = limit_set("ccme-freshwater").limits[:2]


def value(number: float, low: float | None, high: float | None, qualifier: str = "") -> Value:
    return Value(big().quantity, number, 0, Interval(low, high), qualifier)


class Verdicts(unittest.TestCase):
    def test_the_interval_decides(self) -> None:
        """All on the good side, all on the bad, across; bounds without an upper end."""
        for low, high, sign in (
            (45, 63, "within"), (100, 120, "within"), (101, 124, "close"), (121, 150, "beyond"),
            (175, None, "beyond"), (110, None, "close"), (120.1, 120.2, "beyond"),
        ):  # fmt: skip
            with self.subTest(low=low, high=high):
                self.assertEqual(judge(value(120, low, high), LONG).sign, sign)

    def test_runs_against_the_long_term_guideline(self) -> None:
        """13 drops twice are within 120; 15 and 14 with a blank of one are too close to call."""
        for samples, sign, reported in (
            ((7, 8), "within", "within"),
            ((13, 13), "within", "within"),
            ((15, 15), "close", "within"),
            ((16, 16), "close", "beyond"),
            ((15, 14), "close", "within"),
            ((18, 18), "beyond", "beyond"),
        ):
            taps = walk(samples, blank=1)
            got = outcome_of(big(), fold(big(), taps.events)).value
            verdict = judge(got, LONG)
            with self.subTest(samples=samples):
                self.assertEqual((verdict.interval_sign, verdict.reported_sign), (sign, reported))

    def test_the_sentence_says_what_why_and_against_what(self) -> None:
        """A neighbour reads it: figure, limit, meaning, and that it is one sample."""
        self.assertEqual(
            judge(value(62, 45, 63), LONG).sentence,
            "Chloride 62 mg/L as Cl is within the long-term guideline of 120. Aquatic life can "
            "tolerate this level for a long time. This is one sample against a long-term "
            "guideline.",
        )
        close = judge(value(120, 101, 124), LONG).sentence
        self.assertIn("the true value is probably between 101 and 124 mg/L.", close)
        self.assertIn("at least 110", judge(value(130, 110, None, ">"), LONG).sentence)

    def test_the_interval_leads_and_the_rule_stands_beside(self) -> None:
        """For a legal limit too; where the two differ one sentence says both and why."""
        legal = LONG.model_copy(update={"tier": "legal limit"})
        verdict = judge(value(119, 101, 124), legal)
        self.assertEqual((verdict.sign, verdict.reported_sign), ("close", "within"))
        self.assertIn("119 against 120 is within limit.", verdict.as_printed)
        self.assertEqual(judge(value(62, 45, 63), legal).as_printed, "")

    def test_compared_in_the_limits_basis(self) -> None:
        """The same water as NaCl gets the same verdict."""
        as_salt = value(62, 45, 63).converted(basis="NaCl")
        self.assertAlmostEqual(as_salt.number, 62 * factor("Cl", "NaCl"))
        self.assertEqual(judge(as_salt, LONG).sign, "within")
        self.assertEqual(judge(as_salt, LONG).reported_sign, "within")

    def test_bounds_and_brackets_by_all_that_they_allow(self) -> None:
        """Against maximum and minimum alike, at the limit itself too; a bound that stops short of
        the limit cannot see it."""
        least = {
            str(n): LONG.model_copy(update={"min": str(n), "max": None}) for n in (10, 15, 150, 250)
        }
        most = {str(n): LONG.model_copy(update={"max": str(n)}) for n in (10, 20, 120, 199, 640)}
        for got, limit, sign, words in (
            (value(15, 0, 15, "<"), least["10"], "close", "too close to call"),
            (value(15, 0, 15, "<"), least["15"], "beyond", "below limit"),
            (value(15, 0, 15, "<"), most["20"], "within", "within limit"),
            (value(15, 0, 15, "<"), most["10"], "close", "cannot see this limit"),
            (value(199, 199, None, ">"), least["150"], "within", "within limit"),
            (value(199, 199, None, ">"), least["250"], "close", "cannot see this limit"),
            (value(199, 199, None, ">"), most["120"], "beyond", "above limit"),
            (value(199, 199, None, ">"), most["199"], "beyond", "above limit"),
            (value(199, 199, None, ">"), most["640"], "close", "too close to call"),
        ):
            with self.subTest(value=got.figure, limit=limit.bounds_text):
                verdict = judge(got, limit)
                self.assertEqual((verdict.sign, verdict.reported_sign), (sign, sign))
                self.assertEqual(verdict.words, words)
        kept = replace(value(18, 12, 19), bracket=(10.0, 25.0))
        verdict = judge(kept, most["20"])
        self.assertEqual((verdict.sign, verdict.reported_sign), ("close", "close"))
        self.assertEqual(judge(kept, most["120"]).sign, "within")
        self.assertEqual(judge(kept, least["150"]).sign, "beyond")

    def test_a_limit_that_cannot_be_applied_says_why(self) -> None:
        """Another form, another kind of unit: a reason instead of "no limit"."""
        dissolved = replace(big().quantity, form="dissolved")
        other = replace(value(62, 45, 63), quantity=dissolved)
        self.assertEqual(
            judge(other, LONG).sentence, "The long-term limit is for total; this is dissolved."
        )
        cloudy = Value(Quantity("turbidity", "total", "", "NTU"), 2, 1, Interval(1, 3))
        limit = LONG.model_copy(
            update={"parameter": "turbidity", "basis": "", "unit": "FNU", "max": "4"}
        )
        verdict = most_serious_verdict([judge(cloudy, limit)])
        self.assertEqual((verdict.sign, verdict.words), ("none", "cannot be compared"))
        self.assertIn("NTU and FNU measure different things", verdict.sentence)

    def test_a_minimum(self) -> None:
        """An "at least" limit is judged from the other side."""
        least = LONG.model_copy(update={"min": "50", "max": None})
        for low, high, sign in ((60, 70, "within"), (45, 63, "close"), (20, 40, "beyond")):
            self.assertEqual(judge(value(60, low, high), least).sign, sign)

    def test_the_leading_verdict(self) -> None:
        """The highest limit it is beyond, else a close call, else the first of the set."""
        for low, high, sign, limit in (
            (45, 63, "within", "chloride-long"), (101, 124, "close", "chloride-long"),
            (700, 800, "beyond", "chloride-short"), (600, 700, "beyond", "chloride-long"),
        ):  # fmt: skip
            verdict = most_serious_verdict(
                judge(value(low, low, high), limit) for limit in (LONG, SHORT)
            )
            with self.subTest(low=low):
                self.assertEqual((verdict.sign, verdict.limit.id), (sign, limit))
        self.assertEqual(most_serious_verdict([]).words, "no limit set")


class Favourable(unittest.TestCase):
    def test_a_verdict_needs_readings_that_are_rare_at_the_limit(self) -> None:
        """The interval alone is not enough, on both sides; the sentence says so."""
        near = replace(value(110, 100, 119.5), one_sided=Interval(99, 121))
        verdict = judge(near, LONG)
        self.assertEqual(verdict.sign, "close")
        self.assertIn("also likely for a true value at the limit", verdict.sentence)
        self.assertEqual(judge(replace(near, one_sided=Interval(99, 120)), LONG).sign, "within")
        high = replace(value(130, 120.5, 140), one_sided=Interval(119, 141))
        self.assertEqual(judge(high, LONG).sign, "close")
        self.assertEqual(judge(replace(high, one_sided=Interval(120.2, 141)), LONG).sign, "beyond")
        across = replace(value(110, 100, 130), one_sided=Interval(99, 131))
        self.assertNotIn("rare", judge(across, LONG).sentence)

    def test_it_travels_through_every_basis_and_unit(self) -> None:
        """A change of unit carries both ends along."""
        got = outcome_of(big(), fold(big(), walk((7, 8)).events)).value
        other = got.converted(unit="g/L").one_sided
        self.assertAlmostEqual(other.low, got.one_sided.low / 1000)
        self.assertAlmostEqual(other.high, got.one_sided.high / 1000)

    def test_no_count_is_called_within_too_often(self) -> None:
        """Every pair of counts enumerated, for truths at limits all along the scale: of what a
        limit's own truth reads, at most 5 % is called within, and at most 5 % beyond."""
        for method in (big(), small(), shipped("hardness-tablets"), shipped("alkalinity-tablets")):
            called = Called(method)
            for number in np.linspace(1.5, method.stages[0].most - 3, 14):
                limit = round(float(number) * reader(method).at(2), 1)
                for side in ("within", "beyond"):
                    with self.subTest(method=method.id, limit=limit, side=side):
                        self.assertLessEqual(called.share(limit, side), 0.05)


class Called:
    """How often runs of a truth at a limit are called within or beyond, by adding up what every
    count and pair of counts is worth. Drops: the blank is the one that shows nothing."""

    def __init__(self, method: Method) -> None:
        self.method, self.stage = method, method.stages[0]
        self.reader = reader(method)
        model = self.reader.counting
        self.nodes, self.weights = normal_nodes(15)
        self.scales = np.exp(self.nodes * model.spread.shared_relative())
        self.needs, self.shares = uniform_nodes(*model.spread.offset)

    def chances(self, truth: float) -> np.ndarray:
        """P(each count | truth), by the bottle's scale and the colour's need."""
        model, most = self.reader.counting, self.stage.most
        drops = truth / model.factor / self.scales[:, None, None]
        needs = self.needs[None, :, None]
        end = drops + needs
        sd = model.scatter(drops, needs)
        upto = np.concatenate([ndtr((np.arange(1, most + 1) - end) / sd), np.ones_like(end)], 2)
        return np.diff(upto, axis=2, prepend=0.0)

    def share(self, limit: float, side: str) -> float:
        """The share of runs called so."""
        bound = LONG.model_copy(
            update={
                "parameter": self.method.quantity.parameter, "form": self.method.quantity.form,
                "basis": self.method.quantity.basis, "max": str(limit),
            }
        )  # fmt: skip
        chances = self.chances(limit)
        together = self.weights[:, None] * self.shares[None, :]
        blanks = [Count(1)] if self.stage.blank else []
        total = 0.0
        for first in range(1, self.stage.most + 1):
            if self.stage.repeats.least == 1:
                if judge(self.reader.value([Count(first)], [Count(first)]), bound).sign == side:
                    total += float((together * chances[:, :, first - 1]).sum())
                continue
            for second in range(max(1, first - 1), min(first + 1, self.stage.most) + 1):
                pair = sorted((first, second))
                used = [Count(n) for n in pair]
                if judge(self.reader.value(used, used, blanks), bound).sign == side:
                    both = chances[:, :, first - 1] * chances[:, :, second - 1]
                    total += float((together * both).sum())
        return total


class Deciders(unittest.TestCase):
    def test_what_would_decide_is_tried_and_not_guessed(self) -> None:
        """Against 120, 15 and 14 drops: drop size and a third help; a laboratory always does."""
        taps = walk((15, 14), blank=1)
        state = fold(big(), taps.events)
        readings = [d.seen for d in state.stage.samples]
        got = outcome_of(big(), state).value
        found = suggest_next_steps(
            reader(), got, LONG, readings, [d.seen for d in state.stage.blanks]
        )
        self.assertEqual(found[-1], "a more precise kit or a laboratory")
        self.assertEqual(found[0], f"{reader().standard_shows}, together with a third measurement")
        self.assertTrue(sentence(found).startswith("To get a clear verdict, use a standard"))
        hopeless = LONG.model_copy(update={"max": "112"})
        self.assertEqual(suggest_next_steps(reader(), got, hopeless, readings, []), (found[-1],))


class Sets(unittest.TestCase):
    def test_every_limit_names_its_document_and_figures(self) -> None:
        """A value in the middle of what is allowed is within; the document carries a year."""
        for held in limit_sets().values():
            for limit in held.limits:
                with self.subTest(limit.id):
                    self.assertRegex(limit.document, r"\(\d{4}\)")
                    if limit.formula:
                        continue
                    least, most = float(limit.min or 0), float(limit.max or 1000)
                    middle = (least + most) / 2
                    near = (most - least) / 10
                    inside = Value(
                        limit.quantity, middle, 0, Interval(middle - near, middle + near)
                    )
                    self.assertEqual(judge(inside, limit).sign, "within")

    def test_published_figures(self) -> None:
        """CCME 2011: 120 and 640; US EPA 1988: 230 and 860 mg/L."""
        self.assertEqual([x.max for x in limit_set("ccme-freshwater").limits[:2]], ["120", "640"])
        self.assertEqual([x.max for x in limit_set("epa-freshwater").limits[:2]], ["230", "860"])
        with self.assertRaisesRegex(UnknownName, "ccme"):
            limit_set("nowhere")


class Gauge(unittest.TestCase):
    def test_scale_holds_limit_and_interval(self) -> None:
        """The scale ends 1.6 times above the limit that can hold the interval."""
        small = gauge(value(60, 45, 63), (LONG, SHORT), "within", "within")
        large = gauge(value(300, 280, 330), (LONG, SHORT), "beyond", "beyond")
        self.assertEqual((small.top, large.top), (192.0, 1024.0))
        self.assertAlmostEqual(small.mark, 60 / 192)
        self.assertEqual(len(small.ticks), 1)
        self.assertEqual(len(large.ticks), 2)

    def test_off_the_scale_is_shown_as_such(self) -> None:
        """Above every scale the mark becomes an arrow at its end."""
        drawn = gauge(value(2000, 1900, 2100), (LONG, SHORT), "beyond", "beyond")
        self.assertTrue(drawn.over)
        self.assertEqual((drawn.mark, drawn.whisker), (1.0, (1.0, 1.0)))

    def test_without_value_or_limit(self) -> None:
        """An empty gauge has ticks and no mark; without a limit nothing is tinted."""
        self.assertIsNone(gauge(None, (LONG,), "none", "").mark)
        self.assertIsNone(gauge(value(5, 4, 6), (), "none", "").tint)
