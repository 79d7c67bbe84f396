"""Two stages of one flask, what their difference shares, and how large a drop is."""

import unittest
from decimal import Decimal
from math import sqrt

import numpy as np

from kessa_core.documents.load import InvalidDocument
from kessa_core.errors import NotANumber
from kessa_core.methods import shipped
from kessa_core.quality.calibration import calibration_line
from kessa_core.readings.lots import DropSize, Lot, Lots
from kessa_core.readings.reading import Count, Reading
from kessa_core.runs import fold
from kessa_core.runs.joint import common_sd
from tests.builders.documents import changed
from tests.builders.runs import begun, outcomes


class OneFlask(unittest.TestCase):
    def test_m_goes_on_from_p(self) -> None:
        """P at 50 digits, M at 125 on the same counter: 40 and 100 mg/L."""
        taps = begun("alkalinity-titrator").read("50").on_to(1).read("125")
        self.assertEqual([o.value.figure for o in outcomes(taps)], ["40", "100"])
        titles = [step.title for step in taps.method.stages[1].steps]
        self.assertFalse([title for title in titles if "counter to 0" in title])

    def test_p_above_m_is_questioned_and_can_be_kept(self) -> None:
        """The counter cannot go back; what was confirmed stays, and says so."""
        taps = begun("alkalinity-titrator").read("50").on_to(1)
        for step in taps.stage.steps[:-1]:
            taps.act("tick", step=step.id)
        taps.act("read", step="m-read", raw="45")
        state = fold(taps.method, taps.events)
        self.assertIn("ended at 45, below P alkalinity at 50", state.ignored[-1][1])
        taps.act("read", step="m-read", raw="45", sure=1)
        found = outcomes(taps)[1]
        self.assertEqual(found.value.figure, "36")
        self.assertTrue(any("below P alkalinity" in flag for flag in found.flags))

    def test_colourless_at_once_is_no_p(self) -> None:
        """P is absent, and M goes on."""
        taps = begun("alkalinity-titrator")
        for step in taps.stage.steps:
            if step.kind == "tick":
                taps.act("tick", step=step.id)
            elif step.kind == "check":
                taps.act("answer", step=step.id, answer="colourless")
                break
        taps.on_to(1).read("125")
        p, m = outcomes(taps)
        self.assertEqual((p.value.figure, m.value.figure), ("absent, < 0.8", "100"))

    def test_a_document_that_cannot_go_on_is_refused(self) -> None:
        """Another portion, a pair of determinations, nothing before it."""
        for old, new, says in (
            ("    continues: p\n", "    continues: q\n", "continues names the stage before"),
            (
                "    title: P alkalinity\n",
                "    title: P alkalinity\n    continues: m\n",
                "before the first",
            ),
            (
                "leaves: keep-sample\n    repeats: {least: 1, agree: {relative_percent: 4}}",
                "leaves: keep-sample\n    repeats: {agree: {relative_percent: 4}}",
                "continues names the stage before",
            ),
        ):
            with self.subTest(says=says), self.assertRaisesRegex(InvalidDocument, says):
                changed("alkalinity-titrator", (old, new))


class Differences(unittest.TestCase):
    def test_units_and_bases_are_converted_or_refused(self) -> None:
        """µg/L less mg/L, N less NO2; °C from chlorines is no difference."""
        for old, new, says in (
            (
                "parameter: combined-chlorine, form: total, basis: Cl2, unit: mg/L, decimals: 2",
                "parameter: temperature, form: water, unit: °C, decimals: 2",
                "combined",
            ),
            (
                "parameter: combined-chlorine, form: total, basis: Cl2, unit: mg/L, decimals: 2",
                "parameter: nitrate, form: total, basis: N, unit: mg/L, decimals: 2",
                "No agreed rule",
            ),
        ):
            with self.subTest(says=says), self.assertRaisesRegex(InvalidDocument, says):
                changed("chlorine-photometer", (old, new))
        micro = changed(
            "chlorine-photometer",
            ("parameter: combined-chlorine, form: total, basis: Cl2, unit: mg/L, decimals: 2",
             "parameter: combined-chlorine, form: total, basis: Cl2, unit: µg/L, decimals: 0"),
        )  # fmt: skip
        combined = outcomes(begun(micro).read("0.34").on_to(1).read("0.84"))[2]
        self.assertEqual(combined.value.text, "500 µg/L as Cl₂")
        self.assertTrue(combined.value.interval.low < 500 < combined.value.interval.high)

    def test_an_impossible_pair_is_a_bound_with_a_width_and_a_flag(self) -> None:
        """Total 10.00, calcium 10.20 mL: an upper bound, the pair named, likely causes said."""
        taps = begun("hardness-burette").read("0.00", "10.00").read("0.00", "10.00").on_to(1)
        taps.read("0.00", "10.40").read("0.00", "10.40")
        magnesium = outcomes(taps)[2]
        self.assertTrue(magnesium.value.figure.startswith("not detected, < "))
        self.assertEqual(magnesium.value.interval.low, 0.0)
        self.assertGreater(magnesium.value.interval.high, 1.0)
        self.assertIn("Calcium hardness reads above Total hardness", magnesium.flags[-1])
        self.assertIn("exchanged", magnesium.flags[-1])

    def test_a_reserve_is_never_negative(self) -> None:
        """System 4 drops, mains 10: no "−6 drops", but a bound and a flag."""
        taps = begun("inhibitor-reserve").count(10, "reference").count(4)
        reserve = outcomes(taps)[0]
        self.assertTrue(reserve.value.figure.startswith("not detected, < "))
        self.assertGreater(reserve.value.interval.high, 0)
        self.assertIn("reads above", reserve.flags[-1])

    def test_two_sensors_of_two_lots_share_nothing(self) -> None:
        """Each names its reagent; two stages of one titrant share its strength."""
        sensors = [stage.reader() for stage in shipped("chlorine-dioxide-sensors").stages]
        self.assertEqual(common_sd(sensors[1], sensors[2]), 0.0)
        hardness = [stage.reader() for stage in shipped("hardness-burette").stages]
        self.assertAlmostEqual(common_sd(*hardness), 0.005)
        with self.assertRaisesRegex(InvalidDocument, "name it with whose"):
            changed("chlorine-dioxide-sensors", (" whose: dioxide sensors,", ""))
        with self.assertRaisesRegex(InvalidDocument, "whose 'nobody'"):
            changed("chlorine-dioxide-sensors", ("whose: dioxide sensors", "whose: nobody"))

    def test_chlorite_is_less_the_chlorine_by_electrons(self) -> None:
        """0.80 read as ClO2, 0.50 chlorine: 0.80 − 0.4757 × 0.50 (16.86 / 35.45 a mg)."""
        taps = begun("chlorine-dioxide-sensors").read("0.10").on_to(1).read("0.50")
        chlorite = outcomes(taps.on_to(2).read("0.80"))[3]
        self.assertAlmostEqual(chlorite.value.number, 0.80 - 0.50 * (67.45 / 4) / (70.90 / 2), 3)
        self.assertIn("0.50 × 0.4757", chlorite.working)


class Sizes(unittest.TestCase):
    def test_a_burettes_scatter(self) -> None:
        """Two readings by eye, one rounding, one overshoot: eye 0.4, endpoint 0.8 make 1.021."""
        reader = shipped("hardness-burette").stages[0].reader()
        expected = sqrt(2 * 0.4**2 + 0.8**2 + 1 / 12)
        self.assertAlmostEqual(expected, 1.021, 3)
        self.assertAlmostEqual(reader.spread.steps, expected, 6)

    def test_a_bottle_whose_drop_was_measured(self) -> None:
        """0.055 mL where the kit says 0.050: a tenth more (0.0702 × 0.055 × 35.45 / 0.015), and as
        sure as it was measured."""
        stage = shipped("chloride-drops-15ml").stages[0]
        lots = Lots((Lot("silver nitrate", "L-1", drop=DropSize(0.055, 0.01)),))
        kit, own = stage.reader(), stage.reader(lots)
        counts = [Count(12), Count(12)]
        self.assertEqual(own.factor, Decimal("9.12"))
        self.assertAlmostEqual(own.counting.factor, kit.counting.factor * 1.1)
        wide, narrow = (r.interval(counts, [Count(1)]) for r in (kit, own))
        self.assertLess((narrow.high - narrow.low) / 1.1, wide.high - wide.low)

    def test_an_own_line_carries_the_doubt_of_its_fit(self) -> None:
        """Noisy standards widen the interval, and most away from their middle."""
        stage = shipped("iron-photometer").stages[0]
        good = ((0.0, 0.004), (1.0, 0.202), (3.0, 0.598), (5.0, 0.994))
        noisy = ((0.0, 0.030), (1.0, 0.180), (3.0, 0.630), (5.0, 0.970))
        seen = [Reading(500)]
        widths = []
        for table in (good, noisy):
            lots = Lots((Lot("iron ampoules", "own", table),))
            found = stage.reader(lots).interval(seen)
            widths.append(found.high - found.low)
        self.assertGreater(widths[1], 3 * widths[0])

    def test_how_often_an_own_line_holds_the_truth(self) -> None:
        """Four noisy standards, then a reading by that line: 95 in a hundred, 600 times."""
        rng, stage = np.random.default_rng(5), shipped("iron-photometer").stages[0]
        held = 0
        for _ in range(600):
            places = np.array([0.5, 1.5, 3.0, 5.0])
            read = 0.004 + 0.198 * places + rng.normal(0, 0.012, 4)
            table = tuple(zip(places.tolist(), read.tolist(), strict=True))
            reader = stage.reader(Lots((Lot("iron ampoules", "own", table),)))
            truth = rng.uniform(0.3, 5.0)
            factor = 1 + rng.normal(0, 0.01)
            n = round(1000 * (0.004 + 0.198 * truth * factor) + rng.normal(0, 3))
            held += reader.interval([Reading(max(n, 0))]).holds(truth)
        self.assertTrue(0.93 <= held / 600 <= 0.985, held / 600)

    def test_lines_that_cannot_be_read_backwards(self) -> None:
        """Falling, flat, one standard twice, too few: each with its reason."""
        for table, says in (
            (((0, 0.9), (1, 0.5), (2, 0.1)), "fall as the concentration rises"),
            (((0, 0.2), (1, 0.2), (2, 0.2)), "do not change"),
            (((0, 0.0), (1, 0.2), (1, 0.21)), "The standard 1 stands twice"),
            (((0, 0.0), (1, 0.2)), "at least 3 standards"),
        ):
            with self.subTest(says=says), self.assertRaisesRegex(NotANumber, says):
                calibration_line(table)
