"""What to pack for a visit."""

from unittest import TestCase

from kessa_core.methods import Method, shipped
from kessa_core.methods.catalogue import shipped_ids
from kessa_core.preparing.packing import (
    Pack,
    PackedTest,
    SampleNeeded,
    needed_of,
    pack,
    sample_ml,
    waste_of,
)
from kessa_core.quality.stock import Stock

BURETTE = shipped("chloride-burette")


def amount(method: Method, name: str) -> float:
    return next(needed_of(one, method) for one in method.reagents if one.name == name)


class NeedTest(TestCase):
    def test_blank_two_determinations_and_a_third(self) -> None:
        """5 mL each for the blank, the first, the second and the third."""
        self.assertEqual(amount(BURETTE, "silver nitrate"), 20.0)
        self.assertEqual(amount(BURETTE, "chromate indicator"), 16.0)

    def test_sample_for_two_and_a_third(self) -> None:
        self.assertEqual(sample_ml(BURETTE), 3 * 120)

    def test_never_less_than_what_one_test_takes(self) -> None:
        for key in shipped_ids():
            method = shipped(key)
            with self.subTest(method=key):
                self.assertGreaterEqual(sample_ml(method), method.sample.volume_ml)
                for reagent in method.reagents:
                    self.assertGreaterEqual(needed_of(reagent, method), float(reagent.amount))


class PackTest(TestCase):
    def packed(self, *left: float | None) -> tuple[str, tuple[str, ...]]:
        """Whether silver nitrate is enough for one test (20 mL), and which bottles to take."""
        packs = [Pack(f"L-{n}", Stock(contains=held, unit="mL")) for n, held in enumerate(left)]
        found = pack([PackedTest(BURETTE, "ford")], {"silver nitrate": packs})
        one = next(one for one in found.reagents if one.name == "silver nitrate")
        return one.enough, one.packs

    def test_enough_by_the_bottles_at_hand(self) -> None:
        cases = (
            ((), "none", ()),
            ((20.0,), "enough", ("L-0",)),
            ((19.9,), "short", ("L-0",)),
            ((19.9, 0.1), "enough", ("L-0", "L-1")),
            ((25.0, 25.0), "enough", ("L-0",)),
            ((None,), "unknown", ("L-0",)),
            ((5.0, None), "unknown", ("L-0", "L-1")),
            ((0.0,), "short", ("L-0",)),
        )
        for left, enough, taken in cases:
            with self.subTest(left=left):
                self.assertEqual(self.packed(*left), (enough, taken))

    def test_the_same_reagent_of_two_points_is_added_up(self) -> None:
        tests = [PackedTest(BURETTE, place) for place in ("ford", "weir")]
        found = pack(tests, {})
        self.assertEqual(next(one.needed for one in found.reagents if one.unit == "mL"), 40.0)
        self.assertEqual(found.glass, ("burette, 10 mL", "measuring cylinder, 50 mL"))
        self.assertEqual([(one.place, one.ml) for one in found.samples],
                         [("ford", 432.0), ("weir", 432.0)])  # fmt: skip

    def test_bottles_for_a_sample(self) -> None:
        cases = ((1, "100 mL"), (100, "100 mL"), (100.1, "250 mL"), (1000, "1000 mL"),
                 (1000.1, "2 bottles of 1000 mL"), (2400, "3 bottles of 1000 mL"))  # fmt: skip
        for ml, words in cases:
            self.assertEqual(SampleNeeded("ford", ml).words, words)

    def test_waste_by_route_with_a_fifth_more(self) -> None:
        found = waste_of([BURETTE, BURETTE])
        self.assertEqual([(one.route, round(one.ml, 6)) for one in found], [("heavy-metal", 384.0)])
        self.assertEqual(found[0].words, "heavy-metal waste, about 400 mL")

    def test_every_shipped_method_can_be_packed(self) -> None:
        tests = [PackedTest(shipped(key), "ford") for key in shipped_ids()]
        found = pack(tests, {})
        names = [one.name for one in found.reagents]
        self.assertEqual(len({(one.name, one.unit) for one in found.reagents}), len(names))
        self.assertTrue(all(one.enough == "none" for one in found.reagents))
        self.assertEqual(set(names), {r.name for t in tests for r in t.method.reagents})
