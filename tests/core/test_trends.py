"""What the history of a quantity at a place says: usual, since when, before and after."""

import random
import unittest
from datetime import UTC, datetime, timedelta
from math import cos, pi

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from kessa_core.quantities import Interval
from kessa_core.trends.change import Change, TooFew, change_at, differences
from kessa_core.trends.news import News, news_of
from kessa_core.trends.quantiles import quantiles
from kessa_core.trends.series import Earlier, one_a_day
from kessa_core.trends.usual import A_LITTLE_ABOVE, AS_USUAL, Usual, against, normal, usual

START = datetime(2025, 6, 2, 9, 0, tzinfo=UTC)


def series(numbers: list[float | str], every: int = 7, half: float = 0.0) -> list[Earlier]:
    """A result every so many days; "<2" is a bound."""
    made = []
    for place, number in enumerate(numbers):
        at = START + timedelta(days=every * place)
        if isinstance(number, str):
            made.append(Earlier(at, float(number[1:]), number[0]))
        else:
            made.append(Earlier(at, number, "", number - half, number + half))
    return made


def band_of(found: Usual | None) -> tuple[float, float]:
    """The ends of a band that has to be there."""
    assert found is not None
    assert found.band.low is not None
    assert found.band.high is not None
    return found.band.low, found.band.high


class Quantiles(unittest.TestCase):
    def test_some_that_nobody_could_see(self) -> None:
        """2, 4, 5, < 1 and < 3, reckoned by hand: the share at or below 2 is 0.6, below it 0.3."""
        found = quantiles(series([2, 4, 5, "<1", "<3"]), (0.25, 0.31, 0.5, 0.6, 0.61, 0.8, 0.81, 1))
        self.assertEqual(found, [None, 2, 2, 2, 4, 4, 5, 5])

    def test_a_bound_above_every_figure_changes_no_order(self) -> None:
        """It could lie anywhere: the shares of the figures stay apart as they are."""
        found = quantiles(series([2, 4, "<9"]), (0.4, 0.6, 1.0))
        self.assertEqual(found, [2, 4, 4])

    @given(st.lists(st.floats(0, 1000), min_size=1, max_size=30), st.floats(0, 1))
    def test_without_a_bound_as_everybody_reckons(self, numbers: list[float], share: float) -> None:
        """Linear interpolation between the ordered figures."""
        (found,) = quantiles(series(list(numbers)), (share,))
        self.assertAlmostEqual(found or 0.0, float(np.quantile(numbers, share)))


class TheUsual(unittest.TestCase):
    def test_eight_days_make_a_history(self) -> None:
        """Seven do not, nor do eight results of one day."""
        at = START + timedelta(days=100)
        self.assertIsNone(usual(series([40.0] * 7), at))
        self.assertIsNone(usual(series([40.0] * 8, every=0), at))
        self.assertIsNotNone(usual(series([40.0] * 8), at))

    def test_the_band_comes_from_the_quarters(self) -> None:
        """Nine in ten of 0 to 20: as far as a normal distribution with these quarters has them."""
        low, high = band_of(usual(series([float(n) for n in range(21)]), START))
        self.assertAlmostEqual(high, 10 + 5 * 1.645 / 0.6745)
        self.assertEqual(low, 0.0)

    def test_a_change_that_has_begun_is_not_usual_at_once(self) -> None:
        """Thirty about 220, then eight about 350: the band stays where it was."""
        rng = random.Random(4)
        before: list[float | str] = [220 + rng.gauss(0, 8) for _ in range(30)]
        after: list[float | str] = [350 + rng.gauss(0, 8) for _ in range(8)]
        low, high = band_of(usual(series(before + after), START))
        self.assertGreater(low, 185)
        self.assertLess(high, 265)

    def test_repeats_of_a_day_count_once(self) -> None:
        """Twenty repeats on one day weigh no more than one."""
        once = series([10, 12, 11, 13, 10, 12, 11, 13, 30])
        often = [*once, *(Earlier(once[-1].at, 30.0) for _ in range(20))]
        self.assertEqual(usual(often, START), usual(once, START))
        self.assertEqual(len(one_a_day(often)), 9)

    def test_no_narrower_than_a_reading_is_sure(self) -> None:
        """A card that always said 7.5 tells 7.5 give or take its own half step."""
        low, high = band_of(usual(series([7.5] * 12, half=0.4), START))
        self.assertAlmostEqual(low, 7.1)
        self.assertAlmostEqual(high, 7.9)

    def test_below_what_could_be_seen(self) -> None:
        """Only bounds: nought to the bound. Mostly bounds: from nought. Few: the figures."""
        self.assertEqual(band_of(usual(series(["<2"] * 9), START)), (0.0, 2.0))
        mostly = band_of(usual(series(["<2", "<2", "<2", "<2", "<2", 3, 4, 3, 4]), START))
        self.assertEqual(mostly[0], 0.0)
        self.assertGreater(mostly[1], 4)
        few = band_of(usual(series(["<2", 10, 11, 12, 10, 11, 12, 10, 11, 12]), START))
        self.assertGreater(few[0], 7)

    def test_by_season_where_there_is_enough(self) -> None:
        """A wave of the year is followed; with ten months of it nothing is said of seasons."""
        rng = random.Random(1)

        def numbers(weeks: int) -> list[float | str]:
            turn = [(START + timedelta(days=7 * n)).timetuple().tm_yday for n in range(weeks)]
            return [9 - 6 * cos((day - 15) / 365 * 2 * pi) + rng.gauss(0, 0.5) for day in turn]

        held = normal(series(numbers(78)))
        assert held is not None
        winter = held.at(datetime(2026, 12, 15, tzinfo=UTC))
        summer = held.at(datetime(2026, 7, 15, tzinfo=UTC))
        self.assertTrue(winter.seasonal)
        self.assertTrue(winter.holds(3.7), winter)
        self.assertFalse(winter.holds(9.0))
        self.assertTrue(summer.holds(14.9), summer)
        self.assertLess(summer.width, held.still.width / 3)
        short = usual(series(numbers(43)), START)
        assert short is not None
        self.assertFalse(short.seasonal)

    def test_no_season_where_there_is_none(self) -> None:
        """Mere scatter is not taken for a wave."""
        rng = random.Random(2)
        found = usual(series([50 + rng.gauss(0, 5) for _ in range(78)]), START)
        assert found is not None
        self.assertFalse(found.seasonal)

    def test_words_for_how_a_value_stands(self) -> None:
        """Inside, above, far above, below."""
        held = Usual(9, 44.0, Interval(40.0, 48.0))
        for number, words in (
            (44, AS_USUAL),
            (48, AS_USUAL),
            (88, "2.0 times the usual value"),
            (49, A_LITTLE_ABOVE),
            (20, "below the usual value"),
        ):
            self.assertEqual(against(number, held), words)

    @given(st.lists(st.floats(0, 500), min_size=8, max_size=40), st.floats(0.1, 50))
    def test_in_another_unit_it_is_the_same(self, numbers: list[float], factor: float) -> None:
        """The band of figures times a factor is the band times the factor."""
        one = usual(series(list(numbers)), START)
        other = usual(series([number * factor for number in numbers]), START)
        for was, now in zip(band_of(one), band_of(other), strict=True):
            self.assertAlmostEqual(was * factor, now, delta=1e-6 * (1 + abs(now)))


class Stands(unittest.TestCase):
    BEFORE: tuple[float | str, ...] = (20, 21, 22, 19, 20, 21, 22, 19, 20, 21, 20, 22)

    def test_without_a_history(self) -> None:
        """One result has none; none at all is an error."""
        self.assertEqual(news_of(series([5])), News(None))
        with self.assertRaises(ValueError):
            news_of([])

    def test_since_when_and_how_often(self) -> None:
        """Three above the band in a row last; one inside breaks the row."""
        found = news_of(series([*self.BEFORE, 40, 41, 43]))
        self.assertEqual((found.side, found.count, found.lasts), ("above", 3, True))
        self.assertEqual(found.since, START + timedelta(days=7 * 12))
        broken = news_of(series([*self.BEFORE, 40, 20, 43]))
        self.assertEqual((broken.side, broken.count, broken.lasts), ("above", 1, False))
        below = news_of(series([*self.BEFORE, 3]))
        self.assertEqual(below.side, "below")
        inside = news_of(series([*self.BEFORE, 21]))
        self.assertEqual((inside.side, inside.since, inside.count), ("", None, 0))

    def test_bounds_say_only_what_they_say(self) -> None:
        """ "< 30" is not above; "> 30" is; "< 3" is below."""
        for newest, side in (("<30", ""), (">30", "above"), ("<3", "below"), (">3", "")):
            found = news_of(series([*self.BEFORE, newest]))
            self.assertEqual(found.side, side, newest)

    def test_a_lost_decimal_point(self) -> None:
        """Ten, a hundred and a thousand times the usual, either way; not three times."""
        for newest, factor in ((205, 0.1), (2.05, 10), (2100, 0.01), (20500, 0.001), (60, 0)):
            self.assertAlmostEqual(news_of(series([*self.BEFORE, newest])).slip, factor)

    def test_what_lasts_is_no_slip(self) -> None:
        """Three times in a row ten times as much: the water has changed."""
        self.assertEqual(news_of(series([*self.BEFORE, 205, 210, 207])).slip, 0)

    def test_rises_in_a_row(self) -> None:
        """Three, and more than the readings' own doubt; falls count below nought."""
        self.assertEqual(news_of(series([5, 6, 7, 8])).rises, 3)
        self.assertEqual(news_of(series([5, 6, 7])).rises, 0)
        self.assertEqual(news_of(series([9, 5, 6, 7, 8])).rises, 3)
        self.assertEqual(news_of(series([8, 7, 6, 5])).rises, -3)
        self.assertEqual(news_of(series([5, 6, 7, 8], half=4)).rises, 0)
        self.assertEqual(news_of(series([5, 6, 6, 8])).rises, 0)

    def test_the_same_weeks_a_year_ago(self) -> None:
        """Higher than a year ago; not where the scatter is as large, nor within a year."""
        rising: list[float | str] = [30 + n * 0.1 for n in range(60)]
        year = news_of(series(rising)).year_ago
        assert year is not None
        self.assertTrue(year.differs)
        self.assertAlmostEqual(year.now - year.before, 5.2, delta=0.5)
        same = news_of(series([30, 36] * 30)).year_ago
        assert same is not None
        self.assertFalse(same.differs)
        self.assertIsNone(news_of(series([30] * 20)).year_ago)


class BeforeAndAfter(unittest.TestCase):
    EVENT = START + timedelta(days=70)

    def test_as_welch_reckons(self) -> None:
        """The difference of the means and its interval, held against another program's."""
        numbers = [20, 22, 19, 21, 23, 20, 22, 21, 20, 22, 31, 29, 34, 30, 33]
        found = change_at(series(list(numbers)), self.EVENT, 90)
        assert isinstance(found, Change)
        other = stats.ttest_ind(numbers[10:], numbers[:10], equal_var=False)
        expected = other.confidence_interval(0.95)
        self.assertEqual((found.before, found.after), (10, 5))
        self.assertAlmostEqual(found.interval.low or 0, expected.low)
        self.assertAlmostEqual(found.interval.high or 0, expected.high)
        self.assertTrue(found.is_clear)

    def test_too_few(self) -> None:
        """Two after it, or nothing but bounds, carry no difference; three do."""
        before: list[float | str] = [20, 21, 20, 22, 21, 20, 22, 21, 20, 21]
        two = change_at(series([*before, 30, 31]), self.EVENT)
        self.assertEqual(two, TooFew(8, 2))
        bounds = change_at(series([*before, "<30", "<30", "<30", "<30"]), self.EVENT)
        self.assertEqual(bounds, TooFew(8, 0))
        self.assertIsInstance(change_at(series([*before, 30, 31, 30]), self.EVENT), Change)

    def test_equal_readings_are_no_surer_than_their_kit(self) -> None:
        """No scatter at all: the doubt of the readings remains; none of that: a bare figure."""
        numbers: list[float | str] = [20.0] * 10 + [25.0] * 5
        found = change_at(series(numbers, half=4), self.EVENT)
        assert isinstance(found, Change)
        self.assertLess(found.interval.low or 0, 3.5)
        bare = change_at(series(numbers), self.EVENT)
        assert isinstance(bare, Change)
        self.assertEqual(bare.interval, Interval(5.0, 5.0))

    def test_the_time_ends_where_something_else_happened(self) -> None:
        """What comes after the next event does not count; what was left out as a bound is told."""
        numbers: list[float | str] = [20, "<30", *[20, 21] * 4, 30, 31, 30, 31, 90, 90]
        until = self.EVENT + timedelta(days=28)
        found = change_at(series(numbers), self.EVENT, 90, until)
        assert isinstance(found, Change)
        self.assertEqual((found.before, found.after, found.bounds), (9, 4, 1))
        self.assertLess(found.by, 12)

    def test_against_the_comparison_point(self) -> None:
        """Days with both, the doubts added; what both did together is no difference."""
        own = series([30, 31, 45, ">50", 33], half=3)
        other = series([20, 21, 35, 40], half=4)
        made = differences(own, other)
        self.assertEqual([round(one.number) for one in made], [10, 10, 10])
        self.assertAlmostEqual(made[0].doubt, 5.0)
