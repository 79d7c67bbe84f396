"""What a run uses up of each reagent."""

import unittest

from kessa_core.methods import Method, shipped, shipped_ids
from kessa_core.methods.catalogue import shipped_text
from kessa_core.methods.load import InvalidDocument, load
from kessa_core.runs import fold
from kessa_core.runs.consumption import used_by_one_test, used_up
from tests.builders.runs import Taps, begun, walk


def used(taps: Taps) -> dict[str, float]:
    return used_up(taps.method, fold(taps.method, taps.events))


class UsedUp(unittest.TestCase):
    def test_a_titrant_is_what_was_counted(self) -> None:
        """A blank of 2, then 9 and 10 drops, and two drops of indicator for each of the three."""
        self.assertEqual(used(walk((9, 10))), {"silver nitrate": 21.0, "chromate indicator": 6.0})

    def test_nothing_done_uses_nothing(self) -> None:
        """A test that was opened, or is at its first step."""
        self.assertEqual(used(begun("chloride-drops-15ml")), {})
        self.assertEqual(used(Taps(shipped("chloride-drops-15ml"))), {})

    def test_a_count_that_is_not_finished_counts(self) -> None:
        """Five drops are in the flask; one that was taken back is not."""
        taps = walk(()).steps("sample").drops(5)
        self.assertEqual(used(taps)["silver nitrate"], 7.0)
        self.assertEqual(used(taps.take_back())["silver nitrate"], 6.0)

    def test_a_rejected_determination_was_used_all_the_same(self) -> None:
        """The start colour was wrong: its indicator is gone."""
        taps = walk((9,))
        for step in taps.stage.steps_for("sample"):
            if step.id == "start-colour":
                taps.act("answer", step=step.id, answer="wrong")
                break
            taps.act("tick", step=step.id)
        self.assertEqual(used(taps)["chromate indicator"], 6.0)

    def test_one_flask_counts_on(self) -> None:
        """P at 4 drops, M at 11 from the same zero: 11 drops, not 15."""
        taps = begun("alkalinity-drops")
        for _ in range(2):
            for step in ("rinse", "fill", "p-indicator"):
                taps.act("tick", step=step)
            taps.act("answer", step="p-colour", answer="pink")
            taps.act("set", count=4).act("end").act("next")
            taps.act("tick", step="m-indicator").act("set", count=11).act("end").act("next")
        found = used(taps)
        self.assertEqual(found["acid titrant"], 22.0)
        self.assertEqual((found["P indicator"], found["M indicator"]), (4.0, 4.0))

    def test_a_burette_is_read_in_ml(self) -> None:
        """A blank of 0.20 mL, then 0.20 to 6.60 and, filled again, 0.00 to 6.50."""
        taps = begun("chloride-burette").read("0.00", "0.20", who="blank")
        taps.read("0.20", "6.60").read("0.00", "6.50")
        self.assertAlmostEqual(used(taps)["silver nitrate"], 13.1)

    def test_what_only_some_determinations_take(self) -> None:
        """The standard's own solution is used once, the powder three times."""
        taps = begun("phosphate-photometer").read("1.50", who="standard").read("0.40")
        self.assertEqual(used(taps), {"phosphate standard 1.50": 10.0, "phosphate powder": 2.0})

    def test_a_strip_with_five_pads_is_one_strip(self) -> None:
        """Five stages, one strip."""
        method = shipped("strip-five-pads")
        taps = Taps(method).before()
        for at in range(5):
            if at:
                taps.on_to(at)
            taps.read("2")
        self.assertEqual(used(taps), {"five-pad strips": 1.0})

    def test_what_is_prepared_once(self) -> None:
        """Fixing reagents belong to the bottle, starch to each portion of it."""
        method = shipped("oxygen-syringe")
        taps = Taps(method).before()
        for step in method.stages[0].prepare:
            if step.kind == "wait":
                taps.wait(step.id)
            elif step.kind == "check":
                answer = next(a.id for a in step.answers if a.then == "next")
                taps.act("answer", step=step.id, answer=answer)
            else:
                taps.act("tick", step=step.id)
        taps.read("0", "8.4").read("0", "8.4")
        found = used(taps)
        self.assertEqual((found["fixing reagent 1"], found["starch"]), (8.0, 8.0))


class OneTest(unittest.TestCase):
    def of(self, method: Method, name: str) -> float:
        reagent = next(one for one in method.reagents if one.name == name)
        return used_by_one_test(reagent, method)

    def test_what_one_test_takes(self) -> None:
        """Blank and two determinations of eight drops; one sachet for standard and sample each."""
        self.assertEqual(self.of(shipped("chloride-drops-15ml"), "silver nitrate"), 24.0)
        self.assertEqual(self.of(shipped("phosphate-photometer"), "phosphate powder"), 2.0)
        self.assertEqual(self.of(shipped("phosphate-photometer"), "phosphate standard 1.50"), 10.0)
        self.assertEqual(self.of(shipped("strip-five-pads"), "five-pad strips"), 1.0)
        self.assertEqual(self.of(shipped("oxygen-syringe"), "fixing reagent 1"), 8.0)

    def test_every_reagent_is_used_by_a_test(self) -> None:
        """No shipped method keeps a reagent that nothing uses."""
        for key in shipped_ids():
            for reagent in shipped(key).reagents:
                with self.subTest(method=key, reagent=reagent.name):
                    self.assertGreater(used_by_one_test(reagent, shipped(key)), 0)

    def test_a_stage_that_there_is_not(self) -> None:
        """The reagent names it, the sentence lists what there is."""
        text = shipped_text("chlorine-disc").replace("stages: [total]", "stages: [whole]")
        with self.assertRaisesRegex(InvalidDocument, "no stage 'whole'; stages are free, total"):
            load(text)
