"""Is the sample fit: what is known of it, held against what a kit asks."""

import unittest

from kessa_core.judging.context import PointContext
from kessa_core.methods import shipped
from kessa_core.methods.suitability import KnownConditions, suitability_warnings
from kessa_core.quantities import Interval, Quantity, Value
from kessa_core.runs import conclude, fold
from kessa_core.sheets import compile_sheet
from tests.builders.runs import Taps, outcome_of


def measured(parameter: str, number: float, basis: str = "", qualifier: str = "") -> Value:
    form = {"ph": "none", "nitrite": "total", "free-chlorine": "total"}[parameter]
    unit = "pH" if parameter == "ph" else "mg/L"
    return Value(
        Quantity(parameter, form, basis, unit), number, 2, Interval(number, number), qualifier
    )


def ids(method: str, **known: object) -> list[str]:
    return [
        one.id for one in suitability_warnings(shipped(method).sample, KnownConditions(**known))
    ]


class Concerns(unittest.TestCase):
    def test_each_kind_at_both_sides_of_its_edge(self) -> None:
        """Traits, what was seen, temperature, pH and what interferes."""
        nitrate, chloride = "nitrate-comparator", "chloride-drops-15ml"
        for method, known, expected in (
            (nitrate, {}, []),
            (nitrate, {"traits": ("salt", "glycol")}, ["not-for-salt"]),
            (nitrate, {"seen": ("brown water",)}, ["not-for-turbid"]),
            (chloride, {"seen": ("brown water", "foam")}, ["not-for-coloured", "not-for-turbid"]),
            ("inhibitor-reserve", {"traits": ("glycol",)}, ["not-for-glycol"]),
            (chloride, {"water_c": 5.0}, []),
            (chloride, {"water_c": 4.9}, ["temperature"]),
            (chloride, {"water_c": 30.1}, ["temperature"]),
            (nitrate, {"water_c": 4.0}, []),
            (nitrate, {"values": (measured("ph", 9.0),)}, []),
            (nitrate, {"values": (measured("ph", 9.1),)}, ["ph"]),
            (nitrate, {"values": (measured("ph", 3.9),)}, ["ph"]),
            (nitrate, {"values": (measured("nitrite", 0.5, "N"),)}, []),
            (nitrate, {"values": (measured("nitrite", 0.51, "N"),)}, ["with-nitrite"]),
            (nitrate, {"values": (measured("nitrite", 1.0, "NO2"),)}, []),
            (nitrate, {"values": (measured("nitrite", 2.0, "NO2"),)}, ["with-nitrite"]),
            (nitrate, {"values": (measured("nitrite", 2.0, "N", "<"),)}, []),
            ("oxygen-syringe", {"values": (measured("free-chlorine", 0.6),)},
             ["with-free-chlorine"]),
        ):  # fmt: skip
            with self.subTest(method=method, known=known):
                self.assertEqual(ids(method, **known), expected)

    def test_it_says_what_and_what_to_do(self) -> None:
        """In the units that people know."""
        known = KnownConditions(("turbid",), (), 3.0, (measured("nitrite", 2.0, "NO2"),))
        turbid, nitrite = suitability_warnings(shipped("nitrate-comparator").sample, known)
        self.assertEqual(turbid.what, "This water is turbid.")
        self.assertTrue(turbid.prepare)
        self.assertIn("Nitrite 0.609 mg/L as N was measured", nitrite.what)
        self.assertFalse(nitrite.prepare)
        (_, cold) = suitability_warnings(shipped("chloride-drops-15ml").sample, known)
        self.assertEqual(cold.what, "The water was 3 °C; this kit wants 5 to 30 °C.")
        self.assertTrue(cold.do.startswith("Warm"))


class Answered(unittest.TestCase):
    def test_the_sheet_asks_and_the_result_carries_the_answer(self) -> None:
        """Tested all the same is a flag; put right is a note; the test itself goes as ever."""
        method = shipped("nitrate-comparator")
        sheet = compile_sheet(method, PointContext(known=KnownConditions(traits=("turbid",))))
        self.assertEqual([one["id"] for one in sheet["asks"]], ["not-for-turbid"])
        self.assertNotIn("asks", compile_sheet(method, PointContext()))
        for how, flags in (("anyway", ["Tested all the same: It is turbid."]), ("done", [])):
            taps = Taps(method).act(
                "accept", concern="not-for-turbid", what="It is turbid.", how=how
            )
            taps.before().read("4")
            state = fold(method, taps.events)
            with self.subTest(how):
                self.assertEqual(state.accepted, ["not-for-turbid"])
                self.assertEqual(list(outcome_of(method, state).flags), flags)
                self.assertEqual(outcome_of(method, state).value.figure, "1.0")

    def test_it_can_be_taken_back(self) -> None:
        """Undo leaves the question open; several stages all carry the flag."""
        method = shipped("chlorine-photometer")
        taps = Taps(method).act("accept", concern="temperature", what="Cold.", how="anyway")
        self.assertEqual(fold(method, taps.take_back().events).accepted, [])
        taps = Taps(method).act("accept", concern="temperature", what="Cold.", how="anyway")
        taps.before().read("0.30").on_to(1).read("0.35")
        outcomes = conclude(method, fold(method, taps.events))
        for outcome in outcomes:
            self.assertIn("Tested all the same: Cold.", outcome.flags)
