"""Verdicts follow from the interval; the rule's own verdict stands beside them."""

import unittest
from dataclasses import replace

from kessa_core.errors import UnknownName
from kessa_core.judging import gauge, judge, leading, limit_set, limit_sets
from kessa_core.judging.decide import deciders, sentence
from kessa_core.quantities import Interval, Value
from kessa_core.quantities.species import factor
from kessa_core.runs import fold
from kessa_core.trends.usual import against, usual
from tests.builders.runs import big, outcome_of, reader, walk

LONG, SHORT = limit_set("ccme-freshwater").limits


def value(number: float, low: float | None, high: float | None, qualifier: str = "") -> Value:
    return Value(big().quantity, number, 0, Interval(low, high), qualifier)


class Verdicts(unittest.TestCase):
    def test_the_interval_decides(self) -> None:
        """All on the good side, all on the bad, across; bounds without an upper end."""
        for low, high, sign in (
            (45, 63, "within"), (100, 120, "within"), (101, 124, "close"), (121, 150, "beyond"),
            (175, None, "beyond"), (110, None, "close"),
        ):  # fmt: skip
            with self.subTest(low=low, high=high):
                self.assertEqual(judge(value(120, low, high), LONG).sign, sign)

    def test_runs_against_the_long_term_guideline(self) -> None:
        """13 drops twice are within 120; 15 and 14 with a blank of one are too close to call."""
        for samples, sign, reported in (
            ((7, 8), "within", "within"),
            ((13, 13), "within", "within"),
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
            "Chloride 62 mg/L as Cl is within the long-term guideline of 120. Water life can live "
            "with this for long. One sample against a long-term mean.",
        )
        self.assertIn("the truth lies in 101–124", judge(value(120, 101, 124), LONG).sentence)
        self.assertIn("at least 110", judge(value(130, 110, None, ">"), LONG).sentence)

    def test_a_legal_limit_is_led_by_the_rule(self) -> None:
        """The reported figure decides; the interval only explains."""
        legal = LONG.model_copy(update={"tier": "legal limit"})
        verdict = judge(value(119, 101, 124), legal)
        self.assertEqual((verdict.sign, verdict.interval_sign), ("within", "close"))

    def test_compared_in_the_limits_basis(self) -> None:
        """The same water as NaCl gets the same verdict."""
        as_salt = value(62, 45, 63).converted(basis="NaCl")
        self.assertAlmostEqual(as_salt.number, 62 * factor("Cl", "NaCl"))
        self.assertEqual(judge(as_salt, LONG).sign, "within")
        self.assertEqual(judge(as_salt, LONG).reported_sign, "within")

    def test_bounds_by_the_rule(self) -> None:
        """ "> 199" is beyond 120 and undecided against 640; "< 5" is within."""
        self.assertEqual(judge(value(199, 175, None, ">"), LONG).reported_sign, "beyond")
        self.assertEqual(judge(value(199, 175, None, ">"), SHORT).reported_sign, "close")
        self.assertEqual(judge(value(5, None, 6, "<"), LONG).reported_sign, "within")

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
            verdict = leading(judge(value(low, low, high), limit) for limit in (LONG, SHORT))
            with self.subTest(low=low):
                self.assertEqual((verdict.sign, verdict.limit.id), (sign, limit))
        self.assertEqual(leading([]).words, "no limit here")


class Clear(unittest.TestCase):
    def test_a_verdict_needs_the_interval_clear_of_the_limit(self) -> None:
        """An end nearer to the limit than a fifth of a drop is too close, and that is said."""
        near = replace(value(110, 100, 119.5), clear=1.66)
        verdict = judge(near, LONG)
        self.assertEqual(verdict.sign, "close")
        self.assertIn("nearer to the limit than this method tells apart", verdict.sentence)
        self.assertEqual(judge(replace(near, clear=0.4), LONG).sign, "within")
        self.assertEqual(judge(replace(value(130, 120.5, 140), clear=1.66), LONG).sign, "close")
        self.assertNotIn("nearer", judge(replace(value(110, 100, 130), clear=1.66), LONG).sentence)

    def test_it_is_a_fifth_of_a_drop_in_every_basis(self) -> None:
        """The model says how much; a change of unit carries it along."""
        got = outcome_of(big(), fold(big(), walk((7, 8)).events)).value
        self.assertAlmostEqual(got.clear, 8.3 / 5, places=1)
        self.assertAlmostEqual(got.converted(unit="g/L").clear, got.clear / 1000)


class Deciders(unittest.TestCase):
    def test_what_would_decide_is_tried_and_not_guessed(self) -> None:
        """Against 120, 15 and 14 drops: drop size and a third help; a laboratory always does."""
        taps = walk((15, 14), blank=1)
        state = fold(big(), taps.events)
        readings = [d.seen for d in state.stage.samples]
        got = outcome_of(big(), state).value
        found = deciders(reader(), got, LONG, readings, [d.seen for d in state.stage.blanks])
        self.assertEqual(found[-1], "a finer kit or a laboratory")
        self.assertEqual(
            found[0], f"{reader().standard_shows}, together with a third determination"
        )
        self.assertTrue(sentence(found).startswith("What would decide: a standard"))
        hopeless = LONG.model_copy(update={"max": "112"})
        self.assertEqual(deciders(reader(), got, hopeless, readings, []), (found[-1],))


class Sets(unittest.TestCase):
    def test_every_limit_names_its_document_and_figures(self) -> None:
        """A value in the middle of what is allowed is within; the document carries a year."""
        for held in limit_sets().values():
            for limit in held.limits:
                with self.subTest(limit.id):
                    self.assertRegex(limit.document, r"\(\d{4}\)")
                    least, most = float(limit.min or 0), float(limit.max or 1000)
                    middle = (least + most) / 2
                    inside = Value(limit.quantity, middle, 0, Interval(middle - 1, middle + 1))
                    self.assertEqual(judge(inside, limit).sign, "within")

    def test_published_figures(self) -> None:
        """CCME 2011: 120 and 640; US EPA 1988: 230 and 860 mg/L."""
        self.assertEqual([x.max for x in limit_set("ccme-freshwater").limits], ["120", "640"])
        self.assertEqual([x.max for x in limit_set("epa-freshwater").limits], ["230", "860"])
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


class Usual(unittest.TestCase):
    def test_eight_results_make_a_normal(self) -> None:
        """Fewer than eight are no history; then median and 5-95 % band."""
        self.assertIsNone(usual([40.0] * 7))
        found = usual([float(n) for n in range(21)])
        self.assertEqual((found.median, found.band), (10.0, Interval(1.0, 19.0)))

    def test_words_for_how_a_value_stands(self) -> None:
        """Inside, above, far above, below."""
        normal = usual([40, 41, 42, 43, 44, 45, 46, 47, 48])
        for number, words in (
            (44, "as usual here"),
            (88, "2.0× the usual"),
            (49, "a little above the usual"),
            (20, "below the usual"),
        ):
            self.assertEqual(against(number, normal), words)
