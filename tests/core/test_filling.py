"""Results that fill the inputs of calculations."""

import unittest

from kessa_core.calculations import calculations
from kessa_core.calculations.filling import CONVERT, INPUTS, filled, typed
from kessa_core.calculations.uncertain import work_out
from kessa_core.quantities import Interval, Quantity, Value

OXYGEN = Quantity("oxygen", "dissolved", "", "mg/L")
WATER_C = Quantity("temperature", "water", "", "°C")
NITRATE = Quantity("nitrate", "total", "NO3", "mg/L")
HARDNESS = Quantity("hardness", "total", "CaCO3", "mg/L")


def value(of: Quantity, number: float, half: float = 0.0, decimals: int = 1,
          qualifier: str = "") -> Value:  # fmt: skip
    return Value(of, number, decimals, Interval(number - half, number + half), qualifier)


class Filling(unittest.TestCase):
    def test_every_input_exists(self) -> None:
        """In its calculation, and as a quantity of the field."""
        for name, inputs in INPUTS.items():
            keys = {given.key for given in calculations()[name].given}
            self.assertLessEqual(set(inputs), keys, name)
            for accepted in inputs.values():
                for quantity in accepted:
                    self.assertTrue(quantity.name, quantity)

    def test_with_what_was_measured_beside_it(self) -> None:
        """Oxygen with the temperature of its sample, ready to work out."""
        found = {one.name: one for one in filled(value(OXYGEN, 8.9, 0.4), [value(WATER_C, 12)])}
        inputs = dict(found["oxygen-percent"].inputs)
        self.assertEqual(inputs, {"do_mg_l": "8.9 ± 0.40", "temperature_c": "12.0"})
        worked = work_out("oxygen-percent", inputs)
        self.assertTrue(worked.answers[0].figure.startswith("82"), worked)

    def test_one_that_is_missing_is_left_to_the_person(self) -> None:
        """The others stay empty; values of other samples' quantities fill nothing."""
        found = {one.name: one for one in filled(value(WATER_C, 12), [value(NITRATE, 4)])}
        self.assertEqual(dict(found["oxygen-percent"].inputs), {"temperature_c": "12.0"})
        self.assertNotIn(CONVERT, found)

    def test_basis_and_unit_are_those_of_the_input(self) -> None:
        """Hardness in °dH goes in as mg/L of CaCO3."""
        german = Quantity("hardness", "total", "CaCO3", "°dH")
        (found,) = [one for one in filled(value(german, 8.2), []) if one.name == "copper-criterion"]
        self.assertTrue(dict(found.inputs)["hardness_mg_l"].startswith("146"), found)

    def test_into_another_basis(self) -> None:
        """What has a basis can be converted: from its own."""
        (found,) = filled(value(NITRATE, 42, 5, 0), [])
        self.assertEqual((found.name, dict(found.inputs)["from"]), (CONVERT, "NO3"))

    def test_how_a_value_is_typed(self) -> None:
        """With its range, as a bound, or bare."""
        self.assertEqual(typed(value(NITRATE, 42, 5, 0)), "42 ± 5.0")
        self.assertEqual(typed(value(NITRATE, 0.05, 0, 2, "<")), "< 0.05")
        self.assertEqual(typed(value(NITRATE, 42, 0, 0)), "42")

    def test_a_bracket_goes_into_none(self) -> None:
        """Nor does a word."""
        bracket = Value(HARDNESS, 75, 0, Interval(50, 100), bracket=(50, 100))
        self.assertEqual(filled(bracket, []), [])
