"""Values keep parameter, basis, unit, qualifier and interval through every conversion."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from kessa_core.errors import NoConversion, UnknownName
from kessa_core.quantities import Interval, Quantity, Value, parameter
from kessa_core.quantities.rounding import figure
from kessa_core.quantities.species import convert, factor, species
from kessa_core.quantities.units import convert as convert_unit

NITROGEN = ["N", "NO3", "NO2", "NaNO2", "NH3", "NH4"]
NITRATE = Quantity("nitrate", "total", "N", "mg/L")


class Species(unittest.TestCase):
    @given(st.floats(1e-3, 1e4), st.sampled_from(NITROGEN), st.sampled_from(NITROGEN))
    def test_there_and_back_is_the_same(self, value: float, a: str, b: str) -> None:
        """A conversion and its inverse give the value back."""
        self.assertAlmostEqual(convert(convert(value, a, b), b, a) / value, 1, places=12)

    def test_printed_factors(self) -> None:
        """Factors as handbooks print them."""
        for source, target, printed in (
            ("N", "NO3", 4.427), ("NO3", "N", 0.2259), ("P", "PO4", 3.066), ("Cl", "NaCl", 1.648),
            ("CaCO3", "Ca", 0.4004), ("CaCO3", "HCO3", 1.219),
        ):  # fmt: skip
            with self.subTest(source=source, target=target):
                self.assertAlmostEqual(factor(source, target), printed, delta=printed * 5e-4)

    def test_no_rule_is_refused(self) -> None:
        """What no agreed rule connects is an error, not a guess."""
        for source, target in (("Fe", "Cu"), ("NO3", "PO4"), ("ClO2", "Cl"), ("HCO3", "CO3")):
            with self.subTest(source=source), self.assertRaises(NoConversion):
                factor(source, target)
        with self.assertRaisesRegex(UnknownName, "NO3"):
            species("NOE")


class Units(unittest.TestCase):
    def test_one_dimension_converts(self) -> None:
        """1.4 mS/cm is 1400 µS/cm; mg/L and ppm are taken as equal; °F becomes °C."""
        for number, source, target, expected in (
            (1.4, "mS/cm", "µS/cm", 1400), (250, "µg/L", "mg/L", 0.25), (3, "ppm", "mg/L", 3),
            (50, "°F", "°C", 10),
        ):  # fmt: skip
            with self.subTest(source=source):
                self.assertAlmostEqual(convert_unit(number, source, target), expected)

    def test_turbidity_units_never_convert(self) -> None:
        """NTU, JTU and FNU are different things."""
        for source, target in (("NTU", "FNU"), ("JTU", "NTU"), ("mg/L", "°C")):
            with self.subTest(source=source), self.assertRaises(NoConversion):
                convert_unit(1, source, target)


class Values(unittest.TestCase):
    def test_a_bound_stays_a_bound_through_a_change_of_basis(self) -> None:
        """ "> 6.0 as N" is "> 26 as NO3"; the bound is rounded down."""
        value = Value(NITRATE, 6.0, 1, Interval(5.2, None), ">")
        as_nitrate = value.converted(basis="NO3")
        self.assertEqual(as_nitrate.figure, "> 26")
        self.assertIsNone(as_nitrate.interval.high)
        self.assertAlmostEqual(as_nitrate.interval.low or 0, 5.2 * factor("N", "NO3"))
        self.assertEqual(as_nitrate.text, "> 26 mg/L as NO₃")

    def test_a_basis_the_parameter_does_not_have_is_refused(self) -> None:
        """Nitrate is not expressed as PO4."""
        with self.assertRaisesRegex(NoConversion, "N or NO3"):
            Value(NITRATE, 1, 1, Interval(0, 2)).converted(basis="PO4")

    def test_bounds_are_rounded_outwards(self) -> None:
        """Lower bounds down, upper bounds up, one-sided ones in words."""
        self.assertEqual(Interval(41.2, 57.1).text(0), "41–58")
        self.assertEqual(Interval(-0.31, 0.22).text(1), "-0.4 to 0.3")
        self.assertEqual(Interval(-31, -22).text(0), "-31 to -22")
        self.assertEqual(Interval(175.9, None).text(0), "at least 175")
        self.assertEqual(Interval(None, 0.31).text(1), "at most 0.4")

    def test_parameters_are_picked_from_a_list(self) -> None:
        """A name that is typed wrong is answered with the list."""
        with self.assertRaisesRegex(UnknownName, "chloride"):
            parameter("chlorid")


class Rounding(unittest.TestCase):
    def test_halves_go_where_the_method_says(self) -> None:
        """Half up and half to even differ at a half and nowhere else."""
        for number, decimals, up, even in (
            (62.5, 0, "63", "62"), (0.285, 2, "0.29", "0.28"), (62.25, 0, "62", "62"),
            (-0.4, 0, "0", "0"), (1250, -2, "1300", "1200"),
        ):  # fmt: skip
            with self.subTest(number=number):
                self.assertEqual(figure(number, decimals), up)
                self.assertEqual(figure(number, decimals, "half-even"), even)

    @given(st.integers(1, 24), st.sampled_from(["8.3", "24.9", "0.7"]))
    def test_noise_of_the_computation_never_moves_a_bound(self, count: int, step: str) -> None:
        """count × step rounded down at its own decimals is the exact product."""
        product = count * float(step)
        self.assertEqual(figure(product, 1, "down"), figure(product, 1, "up"))
