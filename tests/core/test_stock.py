"""How long a pack is good, and for how many tests it is enough."""

import unittest
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from kessa_core.errors import NotANumber
from kessa_core.finding.materials import materials_of
from kessa_core.methods import shipped, shipped_ids
from kessa_core.quality.stock import Stock, counted, pack_amount

TODAY = date(2026, 2, 28)


class Time(unittest.TestCase):
    def test_the_last_day(self) -> None:
        """By its label, or so long after opening; whichever comes first; over the end of February
        in an ordinary and a leap year."""
        for stock, last in (
            (Stock(), None),
            (Stock(expires=TODAY), TODAY),
            (Stock(opened=date(2026, 1, 31), keeps_days=29), date(2026, 3, 1)),
            (Stock(opened=date(2028, 1, 31), keeps_days=29), date(2028, 2, 29)),
            (Stock(expires=TODAY, opened=TODAY, keeps_days=90), TODAY),
            (Stock(expires=date(2027, 1, 1), opened=TODAY, keeps_days=1), date(2026, 3, 1)),
            (Stock(keeps_days=30), None),
        ):
            with self.subTest(stock=stock):
                self.assertEqual(stock.last_day, last)

    def test_what_is_said_of_it(self) -> None:
        """On the last day it is still good."""
        for days, level, words in (
            (31, "", ""),
            (30, "soon", "in 30 days"),
            (1, "soon", "tomorrow"),
            (0, "soon", "today"),
            (-1, "now", "expired on 27 February 2026"),
        ):
            said = Stock(expires=TODAY + timedelta(days=days)).warnings(TODAY)
            with self.subTest(days=days):
                self.assertEqual([one.level for one in said], [level] if level else [])
                self.assertIn(words, " ".join(one.words for one in said))


class Amount(unittest.TestCase):
    def test_whole_tests(self) -> None:
        """Two left of three that a test takes is none; nothing is left below nothing."""
        for contains, used, tests in ((30, 0, 10), (30, 1, 9), (30, 28, 0), (30, 45, 0)):
            stock = Stock(contains=contains, used=used, one_test=3, unit="drops")
            with self.subTest(used=used):
                self.assertEqual(stock.tests_left, tests)
                self.assertGreaterEqual(stock.left, 0)

    def test_words(self) -> None:
        self.assertEqual(
            Stock(contains=1, one_test=1, unit="strip").left_words, "about 1 test (1 strip)"
        )
        self.assertEqual(
            Stock(contains=50, used=2, one_test=1, unit="strip").left_words,
            "about 48 tests (48 strips)",
        )
        self.assertEqual(Stock(contains=12.5, unit="mL").left_words, "12.5 mL")
        self.assertEqual(Stock().left_words, "")
        self.assertEqual(counted("sachet", 0), "sachets")

    def test_few_are_told(self) -> None:
        """Eleven tests say nothing, ten and one do, none is said to be used up."""
        for left, level in ((11, []), (10, ["soon"]), (1, ["soon"]), (0, ["now"])):
            stock = Stock(contains=2.0 * left, one_test=2, unit="mL")
            with self.subTest(left=left):
                self.assertEqual([one.level for one in stock.warnings(TODAY)], level)

    def test_what_is_wrong_now_comes_first(self) -> None:
        stock = Stock(expires=TODAY, contains=0.5, one_test=1, unit="mL")
        self.assertEqual([one.level for one in stock.warnings(TODAY)], ["now", "soon"])

    @given(st.floats(0, 1e5), st.lists(st.floats(0, 1e4), max_size=9), st.floats(0.01, 1e3))
    def test_each_test_leaves_no_more(
        self, contains: float, taken: list[float], one: float
    ) -> None:
        """Whatever tests took, what is left falls and never below nothing."""
        left = [
            Stock(contains=contains, used=sum(taken[:n]), one_test=one).left
            for n in range(len(taken) + 1)
        ]
        self.assertEqual(left, sorted(left, reverse=True))
        self.assertTrue(all(amount >= 0 for amount in left))


class PackAmount(unittest.TestCase):
    def test_in_the_reagents_own_unit(self) -> None:
        """30 mL of 0.05 mL drops; 100 tests of three drops; 50 strips are 50 strips."""
        for given_as, found in (
            ((30, "mL", "drops", 3, 0.05), 600),
            ((100, "tests", "drops", 3, 0.05), 300),
            ((50, "pieces", "strip", 1, 0.05), 50),
            ((250, "mL", "mL", 5, 0.05), 250),
        ):
            with self.subTest(given_as=given_as):
                self.assertAlmostEqual(pack_amount(*given_as), found)

    def test_what_says_nothing(self) -> None:
        for given_as, says in (
            ((0, "tests", "drops", 3, 0.05), "above zero"),
            ((-1, "pieces", "strip", 1, 0.05), "above zero"),
            ((30, "mL", "strip", 1, 0.05), "counted in strips"),
            ((30, "mL", "drops", 1, 0), "counted in drops"),
        ):
            with self.subTest(given_as=given_as), self.assertRaisesRegex(NotANumber, says):
                pack_amount(*given_as)


class Materials(unittest.TestCase):
    def test_what_the_methods_say_of_one(self) -> None:
        """Silver nitrate in both portions: the test that takes more, its kit's drop."""
        found = materials_of([shipped("chloride-drops-15ml"), shipped("chloride-drops-5ml")])
        silver = found["silver nitrate"]
        self.assertEqual((silver.one_test, silver.drop_ml), (24.0, 0.05))
        self.assertTrue(silver.counted and silver.rests)
        self.assertFalse(found["chromate indicator"].rests)

    def test_a_standard_knows_its_unit(self) -> None:
        found = materials_of([shipped("phosphate-photometer")])["phosphate standard 1.50"]
        self.assertEqual((found.holds, found.unit), ("mg/L as PO₄", "mL"))

    def test_values_rest_on_a_lot_of_every_tracked_method(self) -> None:
        """Where lots are tracked, at least one can be corrected by a standard."""
        for key in shipped_ids():
            method = shipped(key)
            rests = [one.name for one in materials_of([method]).values() if one.rests]
            with self.subTest(method=key):
                self.assertTrue(set(rests) <= set(method.tracked))
