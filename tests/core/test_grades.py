"""Good, fair or poor, with the reason; both where the interval allows both."""

import unittest

from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from kessa_core.judging import Limit, judge
from kessa_core.quantities import Interval, Value

OXYGEN = Limit.model_validate(
    {
        "id": "oxygen", "name": "our", "parameter": "oxygen", "form": "dissolved", "basis": "",
        "unit": "mg/L", "min": "8.0", "fair_min": "6.0", "fair": "Young trout suffer.",
        "tier": "guideline", "statistic": "each sample", "within": "Fish are well.",
        "beyond": "Fish run short of oxygen.",
    }
)  # fmt: skip
PH = OXYGEN.model_copy(
    update={"parameter": "ph", "form": "total", "unit": "pH", "min": "6.5", "max": "8.5",
            "fair_min": "6.0", "fair_max": "9.0"}
)  # fmt: skip


def grade(limit: Limit, low: float, high: float) -> str:
    value = Value(limit.quantity, (low + high) / 2, 1, Interval(low, high))
    return judge(value, limit).grade


class Grades(unittest.TestCase):
    def test_by_the_interval(self) -> None:
        """At each edge: on it is still the better grade, across it both."""
        for limit, low, high, says in (
            (OXYGEN, 8.0, 9.0, "good"), (OXYGEN, 7.9, 9.0, "good or fair"),
            (OXYGEN, 6.0, 7.9, "fair"), (OXYGEN, 5.9, 7.9, "fair or poor"),
            (OXYGEN, 4.0, 5.9, "poor"), (OXYGEN, 5.0, 9.0, "good, fair or poor"),
            (PH, 6.5, 8.5, "good"), (PH, 8.6, 9.0, "fair"), (PH, 9.1, 9.4, "poor"),
            (PH, 6.0, 6.4, "fair"), (PH, 5.0, 5.9, "poor"), (PH, 8.4, 8.8, "good or fair"),
            (PH, 8.8, 9.1, "fair or poor"),
        ):  # fmt: skip
            with self.subTest(limit=limit.parameter, low=low, high=high):
                self.assertEqual(grade(limit, low, high), says)

    @given(st.floats(0, 14), st.floats(0, 3))
    def test_there_is_always_a_grade(self, low: float, width: float) -> None:
        self.assertTrue(grade(PH, low, low + width))

    def test_the_sentence_gives_the_reason(self) -> None:
        fair = judge(Value(OXYGEN.quantity, 7.0, 1, Interval(6.8, 7.2)), OXYGEN)
        self.assertTrue(fair.sentence.endswith("Graded fair: Young trout suffer."))
        unsure = judge(Value(OXYGEN.quantity, 8.0, 1, Interval(7.8, 8.2)), OXYGEN)
        self.assertTrue(unsure.sentence.endswith("Too close to grade: good or fair."))
        plain = OXYGEN.model_copy(update={"fair_min": None, "fair": None})
        self.assertEqual(grade(plain, 7, 7), "")

    def test_a_bound(self) -> None:
        """ "> 9" is good; "< 5" is poor; "> 7" is good or fair."""
        for qualifier, number, says in ((">", 9.0, "good"), ("<", 5.0, "poor"),
                                        (">", 7.0, "good or fair")):  # fmt: skip
            interval = Interval(number, None) if qualifier == ">" else Interval(None, number)
            value = Value(OXYGEN.quantity, number, 1, interval, qualifier)
            self.assertEqual(judge(value, OXYGEN).grade, says)

    def test_what_a_document_may_say(self) -> None:
        """Fair lies outside good, and says what it means."""
        said = OXYGEN.model_dump()
        for more in (
            {"fair": None}, {"fair_min": "8.0"}, {"fair_min": "9"}, {"fair_max": "12"},
            {"fair_min": None},
        ):  # fmt: skip
            with self.subTest(more), self.assertRaises(ValidationError):
                Limit.model_validate(said | more)
        self.assertIn("Graded: good at least 8.0, fair at least 6.0, else poor.", OXYGEN.conditions)
