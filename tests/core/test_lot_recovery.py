"""A lot that finds too much or too little of a standard: values are divided by what it finds."""

import unittest

from kessa_core.judging import Limit
from kessa_core.judging.context import PointContext
from kessa_core.judging.outcomes import sentences
from kessa_core.judging.sentences import verdict_of
from kessa_core.methods import Method, shipped
from kessa_core.readings.lots import NO_LOTS, Lot, Lots
from kessa_core.runs import fold
from kessa_core.sheets import compile_sheet
from tests.builders.runs import Taps, outcome_of, outcomes, walk


def found(reagent: str, recovery: float, sd: float = 0.0) -> Lots:
    """The lot of a reagent that finds so much of a standard."""
    return Lots((Lot.noted(reagent, "B-77", recovery=(recovery, sd)),))


def strip_read(method: Method, raw: str, lots: Lots = NO_LOTS) -> tuple:
    taps = Taps(method).before().read(raw)
    return taps, outcome_of(method, fold(method, taps.events, lots), lots)


class Corrected(unittest.TestCase):
    def test_a_strip_that_reads_high(self) -> None:
        """A lot that finds 125 % of a standard: figure, bracket, both ends and the working are 0.8
        times what they were; the doubt of the 125 % makes the range wider."""
        method = shipped("hardness-strip")
        for raw in ("0", "5", "8"):
            with self.subTest(raw=raw):
                _, plain = strip_read(method, raw)
                _, exact = strip_read(method, raw, found("hardness strips", 1.25))
                _, unsure = strip_read(method, raw, found("hardness strips", 1.25, 0.15))
                before, after, wide = plain.value, exact.value, unsure.value
                self.assertAlmostEqual(after.number, 0.8 * before.number)
                if before.interval.low:
                    self.assertAlmostEqual(after.interval.low, 0.8 * before.interval.low)
                self.assertAlmostEqual(after.interval.high, 0.8 * before.interval.high)
                self.assertGreaterEqual(wide.interval.high, after.interval.high)
                self.assertIn("÷ 1.25 because lot B-77 finds 125 % of a standard", exact.working)

    def test_drops(self) -> None:
        """9 and 10 drops of a titrant of which a standard takes 10 % too few."""
        lots = found("silver nitrate", 0.9)
        taps = walk((9, 10))
        plain, corrected = outcomes(taps)[0].value, outcomes(taps, lots)[0].value
        self.assertAlmostEqual(corrected.number, plain.number / 0.9)
        self.assertEqual(corrected.decimals, plain.decimals)

    def test_another_reagents_lot_changes_nothing(self) -> None:
        """The indicator of the titration is not what values rest on."""
        lots = Lots((Lot("silver nitrate", "1"), *found("chromate indicator", 1.5).held))
        taps = walk((9, 10))
        self.assertEqual(outcomes(taps)[0].value, outcomes(taps, lots)[0].value)

    def test_the_page_says_what_the_server_says(self) -> None:
        """Rows and working of the sheet, at the foot, in the middle and at the top."""
        for key, reagent in (
            ("hardness-strip", "hardness strips"),
            ("chloride-drops-15ml", "silver nitrate"),
        ):
            method, lots = shipped(key), found(reagent, 1.25, 0.05)
            sheet = compile_sheet(method, PointContext(lots=lots))["stages"][0]
            rows = sheet["pair"] if key.startswith("chloride") else sheet["single"]
            for name, row in list(rows.items())[:: max(len(rows) // 5, 1)]:
                with self.subTest(method=key, row=name):
                    outcome = self.run_of_row(method, name, lots)
                    self.assertEqual(row["f"], outcome.value.figure)
                    self.assertEqual(row["r"], outcome.value.range_text)
                    self.assertEqual(row["k"], outcome.working)

    def run_of_row(self, method: Method, name: str, lots: Lots) -> object:
        """The outcome of the run that a row of the sheet stands for."""
        parts = name.split(":")
        if method.id == "chloride-drops-15ml":
            taps = walk((int(parts[1]), int(parts[2])), blank=int(parts[0]))
        else:
            taps = Taps(method).before().read(str(int(parts[2]) // 2))
        return outcomes(taps, lots)[0]

    def test_sentences_hold_the_corrected_value(self) -> None:
        """A quarter of what the bare reading says lies below a limit that the bare one passes."""
        method, lots = shipped("hardness-strip"), found("hardness strips", 4.0)
        limit = Limit(
            id="most", parameter="hardness", form="total", basis="CaCO3", unit="mg/L", name="most",
            tier="alert", statistic="each sample", document="made for the test", within="fine here",
            beyond="too much here", max="200",
        )  # fmt: skip
        said = {}
        for name, held in (("bare", NO_LOTS), ("corrected", lots)):
            taps, outcome = strip_read(method, "10", held)
            setting = PointContext(limits=(limit,), lots=held)
            state = fold(method, taps.events, held)
            verdict = verdict_of(outcome.value, setting)
            said[name] = " ".join(sentences(method, state, outcome, verdict, setting))
        self.assertIn("too much here", said["bare"])
        self.assertIn("fine here", said["corrected"])


class Standards(unittest.TestCase):
    def read(self, raw: str, lots: Lots = NO_LOTS) -> object:
        method = shipped("phosphate-photometer")
        taps = Taps(method).before().read(raw, who="standard").read("0.40")
        return outcomes(taps, lots)[0]

    def test_the_window_with_its_ends(self) -> None:
        """1.50 in a window of 90 to 110 %: 1.35 and 1.65 are inside, a hundredth further is not."""
        for raw, passes in (("1.34", False), ("1.35", True), ("1.65", True), ("1.66", False)):
            outcome = self.read(raw)
            with self.subTest(raw=raw):
                failed = [flag for flag in outcome.flags if "outside 90–110 %" in flag]
                self.assertEqual(bool(failed), not passes)

    def test_the_bottle_says_what_it_holds(self) -> None:
        """A standard of 1.62 ± 0.03 by its certificate: 1.66 found is 102.5 %."""
        lots = Lots((Lot.noted("phosphate standard 1.50", "S1", content=(1.62, 0.03 / 1.62 / 2)),))
        outcome = self.read("1.66", lots)
        self.assertIn("standard 1.62 ± 0.03 found 1.66: 102.5 %, inside 90–110 %", outcome.checks)
