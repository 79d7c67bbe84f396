"""Every calculation against cases that were computed without this code."""

import json
import unittest
from pathlib import Path
from typing import Any

from kessa_core.calculations import calculate, calculations
from kessa_core.errors import CoreError

DATA = Path(__file__).parents[1] / "data"


def cases(name: str) -> list[dict]:
    return [json.loads(line) for line in (DATA / f"{name}.jsonl").read_text().splitlines()]


class ReferenceCases(unittest.TestCase):
    def test_every_case_within_its_tolerance(self) -> None:
        """The calculation gives the case's number within the case's own tolerance."""
        for name in calculations():
            for case in cases(name):
                got = calculate(name, case["in"])
                for key, expected in case["out"].items():
                    with self.subTest(name, **case["in"]):
                        self.assert_near(got[key], expected, case)

    def assert_near(self, got: Any, expected: Any, case: dict) -> None:
        """A number, or a list element by element."""
        if isinstance(expected, list):
            self.assertEqual(len(got), len(expected))
            for one, other in zip(got, expected, strict=True):
                self.assert_near(one, other, case)
        else:
            tolerance = max(case["abs_tol"], case["rel_tol"] * abs(expected))
            self.assertAlmostEqual(got, expected, delta=tolerance)

    def test_undefined_inputs_are_refused(self) -> None:
        """Where the definition gives no number, the calculation says so instead of one."""
        for case in cases("undefined"):
            with self.subTest(case["calc"], why=case["why"]), self.assertRaises(CoreError):
                calculate(case["calc"], case["in"])


class WrongInput(unittest.TestCase):
    def test_every_wrong_input_is_named_at_once(self) -> None:
        """One error names each input that is wrong, with its unit."""
        with self.assertRaises(CoreError) as caught:
            calculate("titration-factor", {"normality_eq_l": "x", "drop_ml": -1, "sample_ml": 5})
        for part in ("normality_eq_l", "in eq/L", "drop_ml must be above 0 mL", "equivalent"):
            self.assertIn(part, str(caught.exception))

    def test_unknown_names_say_what_exists(self) -> None:
        """A calculation or an input that does not exist is answered with those that do."""
        with self.assertRaisesRegex(CoreError, "titration-burette"):
            calculate("titration", {})
        with self.assertRaisesRegex(CoreError, "volume: not an input"):
            calculate("titration-factor", {"volume": 1})

    def test_a_number_must_be_finite(self) -> None:
        """Infinity and not-a-number are no inputs."""
        for bad in ("nan", "inf", True, None, [1]):
            with self.subTest(bad=bad), self.assertRaises(CoreError):
                calculate("species-convert", {"value": bad, "from": "N", "to": "NO3"})

    def test_lists_and_choices(self) -> None:
        """A list must hold numbers and pair up; of two possible inputs one is given."""
        for name, given, says in (
            ("photometer-calibration", {"x": "0,1", "y": [0, 1]}, "x must be a list of numbers"),
            ("photometer-calibration", {"x": [0, "a"], "y": [0, 1]}, "x must be a number"),
            ("photometer-calibration", {"x": [0, 1, 2], "y": [0, 1]}, "do not pair up"),
            ("photometer-inverse", {"x": [0, 1], "y": [0, 1], "y0": 1, "replicates": 1.5}, "whole"),
            ("photometer-transmittance", {}, "one of the two"),
            ("photometer-transmittance", {"absorbance": 1, "percent_transmittance": 5}, "one of"),
            ("hardness-convert", {"value": 1, "from": "ppm", "to": "dh"}, "Use mmol_l"),
        ):
            with self.subTest(name, **given), self.assertRaisesRegex(CoreError, says):
                calculate(name, given)

    def test_two_standards_leave_no_error_to_state(self) -> None:
        """A line through two points has a slope and nothing to judge it by."""
        found = calculate("photometer-inverse", {"x": [0, 2], "y": [0, 1], "y0": 0.5})
        self.assertEqual(found, {"x0": 1.0})
        self.assertNotIn("lod", calculate("photometer-calibration", {"x": [0, 2], "y": [0, 1]}))
