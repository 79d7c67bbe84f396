"""Finding a method: what each is chosen by, and what fits."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from kessa_core.finding import WATERS, Wanted, facts_of, fits
from kessa_core.methods import shipped, shipped_ids

FACTS = {key: facts_of(shipped(key)) for key in shipped_ids()}


def found(**wanted: object) -> set[str]:
    return {key for key, facts in FACTS.items() if fits(facts, Wanted(**wanted))}


class Finding(unittest.TestCase):
    def test_facts(self) -> None:
        """Range in the method's own unit; grades without numbers; hazards and lots by name."""
        drops = FACTS["chloride-drops-15ml"]
        self.assertEqual(drops.stages[0].reach, "4 to 195 mg/L as Cl")
        self.assertEqual((drops.lots, drops.duration), (("silver nitrate",), "2.8 min"))
        self.assertEqual(len(drops.hazards), 2)
        grades = FACTS["algae-cover"].stages[0]
        self.assertEqual((grades.low, grades.reach), (None, "none to carpet"))
        self.assertEqual(FACTS["coliforms"].stages[0].reach, "absent to present in 100 mL")
        self.assertEqual(FACTS["coliforms"].duration, "24 h")

    def test_each_condition(self) -> None:
        """What it leaves, and what it must not leave."""
        for wanted, inside, outside in (
            ({"words": "chloride drop"}, "chloride-drops-5ml", "chloride-burette"),
            ({"parameter": "nitrate"}, "strip-three-pads", "nitrite-photometer"),
            ({"principle": "burette"}, "hardness-burette", "hardness-tablets"),
            ({"water": "turbid"}, "ph-meter", "nitrate-comparator"),
            ({"within_s": 120}, "hardness-strip", "coliforms"),
            ({"harmless": True}, "conductivity-meter", "chloride-burette"),
            ({"stock": {"silver nitrate"}}, "chloride-burette", "hardness-burette"),
            ({"stock": ()}, "ph-meter" if not FACTS["ph-meter"].lots else "thermometer",
             "chloride-burette"),
        ):  # fmt: skip
            with self.subTest(wanted=wanted):
                self.assertIn(inside, found(**wanted))
                self.assertNotIn(outside, found(**wanted))
        self.assertEqual(found(), set(FACTS))

    def test_a_value_lies_in_the_range_of_what_is_looked_for(self) -> None:
        """At the ends, and beyond them by one; another stage's range does not count."""
        for value, fitting in ((195, True), (195.01, False), (4, True), (3.99, False)):
            with self.subTest(value=value):
                every = found(parameter="chloride", value=value)
                self.assertEqual("chloride-drops-15ml" in every, fitting)
        self.assertIn("strip-three-pads", found(parameter="hardness", value=400))
        self.assertNotIn("strip-three-pads", found(parameter="nitrate", value=400))
        self.assertNotIn("algae-cover", found(value=1))

    @given(st.sampled_from(["", "turbid"]), st.sampled_from([None, 60, 600]), st.booleans())
    def test_conditions_only_take_away(self, water: str, time: int | None, safe: bool) -> None:
        self.assertLessEqual(
            found(water=water, within_s=time, harmless=safe, parameter="nitrate"),
            found(parameter="nitrate"),
        )

    def test_every_water_is_one_that_a_method_can_name(self) -> None:
        named = {water for facts in FACTS.values() for water in facts.not_for}
        self.assertLessEqual(named, set(WATERS))
