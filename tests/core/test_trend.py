"""The trend over the years, against SciPy's own test and against what is put in."""

import random
import unittest
from datetime import UTC, datetime, timedelta
from math import cos, pi

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from kessa_core.trends.series import Earlier
from kessa_core.trends.trend import FEWEST_DAYS, Trend, trend
from kessa_core.trends.words import trend_words

START = datetime(2022, 1, 15, 9, 0, tzinfo=UTC)


def monthly(numbers: list[float], qualifiers: str = "") -> list[Earlier]:
    """A result in the middle of each month from January 2022 on."""
    made = []
    for place, number in enumerate(numbers):
        at = START.replace(year=2022 + place // 12, month=place % 12 + 1)
        qualifier = qualifiers[place].strip() if place < len(qualifiers) else ""
        made.append(Earlier(at, number, qualifier, number - 1, number + 1))
    return made


def told(found: Trend | None) -> Trend:
    assert found is not None
    return found


class Trends(unittest.TestCase):
    def test_against_another_program(self) -> None:
        """SciPy's seasonal Kendall test, months taken as independent; ours is a little more careful
        (the continuity of the ranks)."""
        rng = random.Random(5)
        for years in (3, 4, 6):
            for slope in (0.0, 0.6, 2.0):
                numbers = [
                    50 + slope * place / 12 + 4 * cos(2 * pi * place / 12) + rng.gauss(0, 1.5)
                    for place in range(12 * years)
                ]
                theirs = stats.mstats.kendalltau_seasonal(
                    np.ma.array(np.reshape(numbers, (years, 12)))
                )
                p = float(theirs["global p-value (indep)"])
                with self.subTest(years=years, slope=slope):
                    got = told(trend(monthly(numbers))).p
                    self.assertGreaterEqual(got, p - 1e-9)
                    self.assertLess(got, p + 0.06)

    def test_what_is_put_in_comes_out(self) -> None:
        """6 a year beneath a season of 40 from end to end: found, and its interval holds it."""
        rng = random.Random(8)
        held = 0
        for _ in range(40):
            numbers = [
                100 + 6 * place / 12 + 20 * cos(2 * pi * place / 12) + rng.gauss(0, 2)
                for place in range(60)
            ]
            found = told(trend(monthly(numbers)))
            self.assertTrue(found.is_clear)
            held += found.interval.holds(6.0)
        self.assertGreaterEqual(held, 36)

    def test_a_season_is_no_trend(self) -> None:
        """From the winter's low to the summer's high: a year and a half that only swings."""
        rng = random.Random(2)
        clear = 0
        for _ in range(60):
            numbers = [50 - 30 * cos(2 * pi * p / 12) + rng.gauss(0, 2) for p in range(31)]
            found = trend(monthly(numbers))
            clear += bool(found and found.is_clear)
        self.assertLessEqual(clear, 6)

    def test_too_little(self) -> None:
        """Eleven days, less than a year, no month twice: nothing is said."""
        self.assertIsNone(trend(monthly([1.0] * (FEWEST_DAYS - 1))))
        self.assertIsNone(trend(monthly([float(n) for n in range(12)])))
        short = [
            Earlier(START + timedelta(days=10 * n), float(n), "", n - 1, n + 1) for n in range(30)
        ]
        self.assertIsNone(trend(short))
        self.assertIsNone(trend([]))

    def test_all_the_same(self) -> None:
        self.assertIsNone(trend(monthly([7.0] * 48)))

    def test_bounds_count_where_they_are_sure(self) -> None:
        """All below 5 and then 6: a rise; "<" beside smaller figures says nothing."""
        rise = told(trend(monthly([5.0] * 24 + [9.0] * 24, "<" * 24)))
        self.assertGreater(rise.slope, 0)
        self.assertLess(rise.p, 0.001)
        self.assertIsNone(trend(monthly([5.0] * 24 + [4.0] * 24, "<" * 24)))

    @settings(max_examples=40)
    @given(st.lists(st.integers(0, 50), min_size=36, max_size=60))
    def test_turned_round_it_falls(self, numbers: list[int]) -> None:
        """The mirror of a series has the mirrored trend."""
        up = trend(monthly([float(n) for n in numbers]))
        down = trend(monthly([100.0 - n for n in numbers]))
        self.assertEqual(up is None, down is None)
        if up and down:
            self.assertAlmostEqual(up.p, down.p)
            self.assertAlmostEqual(up.slope, -down.slope)
            self.assertAlmostEqual(up.interval.low or 0, -(down.interval.high or 0))

    def test_in_words(self) -> None:
        rng = random.Random(4)
        numbers = [100 - 6 * p / 12 + rng.gauss(0, 1) for p in range(60)]
        said = trend_words(trend(monthly(numbers)), "Chloride", "mg/L as Cl", 0)
        self.assertRegex(
            said,
            r"^Chloride falls by about [56]\.\d mg/L as Cl a year \(\d\.\d–\d\.\d\), "
            r"over 4\.9 years, season for season \(60 days with a result\)\.$",
        )
        flat = [100 + rng.gauss(0, 1) for _ in range(60)]
        said = trend_words(trend(monthly(flat)), "Chloride", "mg/L as Cl", 0)
        self.assertIn("neither rises nor falls for sure", said)
        self.assertEqual(trend_words(None, "Chloride", "mg/L", 0), "")
