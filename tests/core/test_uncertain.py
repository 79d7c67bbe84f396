"""Calculations with inputs as people write them, and answers with their range."""

import unittest

from kessa_core.calculations import calculations
from kessa_core.calculations.uncertain import read_number, work_out
from kessa_core.errors import CoreError, NotANumber, UnknownName


class Reading(unittest.TestCase):
    def test_as_people_write(self) -> None:
        for text, low, number, high, qualifier in (
            ("5.2", 5.2, 5.2, 5.2, ""), ("5,2", 5.2, 5.2, 5.2, ""), (" 10 000 ", 1e4, 1e4, 1e4, ""),
            ("5.1–5.5", 5.1, 5.3, 5.5, ""), ("5.5 - 5.1", 5.1, 5.3, 5.5, ""),
            ("5 to 6", 5, 5.5, 6, ""), ("5.2 ± 0.3", 4.9, 5.2, 5.5, ""), ("-3", -3, -3, -3, ""),
            ("5.2+-0.3", 4.9, 5.2, 5.5, ""), ("< 0.05", 0, 0.05, 0.05, "<"),
            (">5", 5, 5, None, ">"), ("1e3", 1000, 1000, 1000, ""),
        ):  # fmt: skip
            with self.subTest(text):
                found = read_number(text)
                self.assertAlmostEqual(found.number, number)
                self.assertAlmostEqual(found.interval.low, low)
                if high is None:
                    self.assertIsNone(found.interval.high)
                else:
                    self.assertAlmostEqual(found.interval.high, high)
                self.assertEqual(found.qualifier, qualifier)

    def test_what_is_no_number(self) -> None:
        for text in ("", "five", "5 mg", "< ", "5..2", "nan", "inf", "1-2-3"):
            with self.subTest(text), self.assertRaises(NotANumber):
                read_number(text)


class Working(unittest.TestCase):
    def answer(self, name: str, **typed: str) -> tuple[str, str]:
        found = work_out(name, {key.rstrip("_"): text for key, text in typed.items()}).answers[0]
        return found.figure, found.range

    def test_how_much_of_the_stock(self) -> None:
        """2 mL of what stock to 100 mL for 1.5 mg/L is asked the other way round: 2 mL of 75."""
        got = self.answer("dilution", stock_mg_l="75", target_mg_l="1.5", final_ml="100")
        self.assertEqual(got, ("2.000", ""))

    def test_a_hardness_in_other_units(self) -> None:
        """8.2 °dH: 146.4 mg/L as CaCO3, 1.462 mmol/L."""
        for to, figure in (("caco3_mg_l", "146.4"), ("mmol_l", "1.462")):
            got = self.answer("hardness-convert", value="8.2", from_="dh", to=to)
            self.assertEqual(got, (figure, ""))

    def test_a_bound_stays_a_bound(self) -> None:
        """> 5.0 as N is > 22.1 as NO3; < 0.05 is < 0.2213."""
        above = self.answer("species-convert", value="> 5.0", from_="N", to="NO3")
        self.assertEqual(above, ("> 22.13", "at least 22.13"))
        below = self.answer("species-convert", value="< 0.05", from_="N", to="NO3")
        self.assertEqual(below[0], "< 0.2213")

    def test_a_range_is_carried(self) -> None:
        got = self.answer("oxygen-percent", do_mg_l="8.9 ± 0.3", temperature_c="12 ± 0.5",
                          pressure_hpa="957")  # fmt: skip
        self.assertEqual(got, ("87.5", "84.3–90.7"))

    def test_an_end_without_an_answer(self) -> None:
        got = self.answer("alkalinity-species", p_as_caco3="88 ± 5", m_as_caco3="90")
        self.assertEqual(got[1], "no range: at an end of it there is no answer")

    def test_lists(self) -> None:
        """Numbers apart by spaces or lines; a quarter a line."""
        self.assertEqual(self.answer("percentile90", values="1 2 3\n4 5")[0], "4.500")
        found = work_out("running-annual-average", {"quarters": "40\n60\n80\n100"})
        self.assertEqual(found.answers[1].figure, "70.00")

    def test_what_is_wrong_names_its_field(self) -> None:
        with self.assertRaises(NotANumber) as caught:
            work_out("dilution", {"stock_mg_l": "much", "target_mg_l": "1", "final_ml": "1"})
        self.assertEqual(caught.exception.field, "stock_mg_l")
        with self.assertRaisesRegex(CoreError, "Volume to fill up to is missing \\(mL\\)"):
            work_out("dilution", {"stock_mg_l": "9", "target_mg_l": "1"})
        with self.assertRaises(UnknownName):
            work_out("alchemy", {})

    def test_every_calculation_says_what_its_inputs_are(self) -> None:
        for name, one in calculations().items():
            for given in one.given:
                with self.subTest(name, given=given.key):
                    self.assertTrue(given.about)
