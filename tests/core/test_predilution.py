"""A dilution that every sample gets: multiplied back everywhere, with its own doubt."""

import unittest
from dataclasses import replace

from kessa_core.judging.context import PointContext
from kessa_core.judging.outcomes import sentences
from kessa_core.judging.sentences import verdict_of
from kessa_core.methods import Method, load, shipped
from kessa_core.methods.catalogue import shipped_text
from kessa_core.methods.load import InvalidDocument
from kessa_core.quality.budget import budget
from kessa_core.readings.lots import NO_LOTS
from kessa_core.runs import fold
from kessa_core.runs.clocks import due
from kessa_core.runs.stage_readers import reader_of_stage
from kessa_core.sheets import compile_sheet
from tests.builders.runs import Taps, outcome_of

METHOD = "nitrite-colorimeter"


def without(method: Method) -> Method:
    """The same kit, its reading taken for the sample's own."""
    stage = method.stages[0].model_copy(update={"predilution": None})
    return method.model_copy(update={"stages": (stage,)})


class Predilution(unittest.TestCase):
    def setUp(self) -> None:
        self.method = shipped(METHOD)
        self.taps = Taps(self.method).before().read("35")
        self.state = fold(self.method, self.taps.events)

    def test_it_is_multiplied_back(self) -> None:
        """35 % T by hand: A = 0.4559, / 0.0120 = 37.99, × 25 = 950; bounds and working too."""
        outcome = outcome_of(self.method, self.state)
        self.assertEqual(outcome.value.text, "950 mg/L as NO₂")
        self.assertIn("37.99 mg/L as NO₂, × 25 for the dilution = 950", outcome.working)
        plain = without(self.method)
        alone = outcome_of(plain, fold(plain, Taps(plain).before().read("35").events)).value
        self.assertAlmostEqual(alone.number * 25, outcome.value.number, 6)
        wide, narrow = outcome.value.interval, alone.interval.scaled(25)
        self.assertTrue(wide.low < narrow.low < narrow.high < wide.high)

    def test_the_sheet_says_what_the_server_says(self) -> None:
        """Every figure of the list, the bound, the running words and the base."""
        stage = compile_sheet(self.method, PointContext())["stages"][0]
        self.assertEqual(stage["base"], 25)
        for shown in (20, 35, 80):
            taps = Taps(self.method).before().read(str(shown))
            state = fold(self.method, taps.events)
            at = taps.stage.reader().half_steps(state.determinations[0].seen) // 2
            value = outcome_of(self.method, state).value
            self.assertEqual(stage["list"][at - stage["first"]], value.figure)
        top = Taps(self.method).before().read(">")
        state = fold(self.method, top.events)
        outcome = outcome_of(self.method, state)
        row = stage["beyond"]["-"]
        self.assertEqual((row["f"], row["r"]), (outcome.value.figure, outcome.value.range_text))
        self.assertEqual(row["k"], outcome.working)
        setting = PointContext().of(outcome.quantity)
        told = sentences(self.method, state, outcome, verdict_of(outcome.value, setting), setting)
        self.assertEqual(row["t"], told)

    def test_its_budget_is_of_the_samples_own_width(self) -> None:
        """The dilution has its part; the width is the result's."""
        seen = [self.state.determinations[0].seen]
        found = budget(reader_of_stage(self.method.stages[0], NO_LOTS), seen).scaled(25)
        interval = outcome_of(self.method, self.state).value.interval
        self.assertAlmostEqual(found.width, interval.high - interval.low, 6)
        self.assertTrue(any("diluting" in part.words for part in found.parts))
        self.assertTrue(all(way.width < found.width for way in found.narrowers))

    def test_a_further_dilution_comes_on_top(self) -> None:
        """Five times more: 125 times in all, read again, one figure fewer."""
        taps = Taps(self.method).before().read(">").act("dilute", by=5)
        state = fold(self.method, taps.read("35", diluted=True).events)
        self.assertEqual([d.diluted for d in state.determinations], [25, 125])
        self.assertEqual(outcome_of(self.method, state).value.text, "4750 mg/L as NO₂")
        self.assertEqual(len(fold(self.method, taps.act("dilute", by=5).events).ignored), 1)

    def test_not_beside_a_reference_water(self) -> None:
        """A difference takes both as they are."""
        text = shipped_text("inhibitor-reserve").replace(
            "    reference:", "    predilution: {times: 2, say: half and half}\n    reference:"
        )
        with self.assertRaisesRegex(InvalidDocument, "takes both as they are"):
            load(text)


class ComputedWaits(unittest.TestCase):
    def test_a_further_dilution_waits_the_longest(self) -> None:
        """The table knows the undiluted reading only."""
        method = shipped("chlorine-dioxide-sensors")
        step = next(s for s in method.every_step if s.wait and s.wait.rule == "computed")
        wait = step.wait
        stage = method.stage(wait.of_stage)
        longest = max(band.seconds for band in wait.table)
        taps = Taps(method).before().read("0.10")
        state = fold(method, taps.events)
        readers = {one.id: one.reader() for one in method.stages}
        short = due(step, state, readers)[0]
        self.assertLess(short, longest)
        held = [replace(one, dilution=5) if one.id == stage.id else one for one in state.stages]
        for one in held[0].determinations:
            one.diluted = 5
        diluted = replace(state, stages=held)
        self.assertEqual(due(step, diluted, readers)[0], longest)
