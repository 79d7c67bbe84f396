"""What measurements share, done again; steps and words by measurement and by water; long waits."""

import unittest

from kessa_core.judging.context import PointContext
from kessa_core.methods import Method, load, shipped
from kessa_core.methods.catalogue import shipped_text
from kessa_core.methods.load import InvalidDocument
from kessa_core.runs import conclude, fold
from kessa_core.sheets import compile_sheet
from tests.builders.documents import changed
from tests.builders.runs import Taps

FIX = """    prepare:
      - {id: fix, kind: tick, title: Fix the bottle}
      - id: floc
        kind: check
        title: Look at the floc
        answers:
          - {id: brown, label: Brown, then: next}
          - {id: lost, label: Lost, then: prepare, cause: the floc was poured out}
"""


def fixed() -> Method:
    """Iron by absorbance, with something to prepare before the sample's determinations."""
    text = shipped_text("iron-photometer").replace("    steps:\n", FIX + "    steps:\n", 1)
    return load(text)


class Shared(unittest.TestCase):
    def setUp(self) -> None:
        self.method = fixed()
        self.taps = Taps(self.method).before().read("0.004", who="blank")

    @property
    def state(self):
        return fold(self.method, self.taps.events)

    def fix(self, answer: str = "brown") -> None:
        self.taps.act("tick", step="fix").act("answer", step="floc", answer=answer)

    def test_once_for_all_of_the_sample(self) -> None:
        """After the blank, before the first; not again before the second."""
        self.assertEqual((self.state.place.step, self.state.preparing), ("fix", True))
        self.fix()
        self.assertEqual(self.state.current.id, "first-1")
        self.taps.read("0.400")
        self.assertEqual(self.state.current.id, "second-1")

    def test_done_again_for_a_cause(self) -> None:
        """The answer leads back to its first step, and the record says why."""
        self.fix("lost")
        self.assertEqual(self.state.place.step, "fix")
        self.assertIn("the floc was poured out; prepared again", self.state.notes[0])

    def test_repeated_later_strikes_what_is_under_way(self) -> None:
        """A spilled bottle: what was read stands, the determination under way does not."""
        self.fix()
        self.taps.read("0.400").act("tick", step="cup").act("prepare", cause="spilled")
        self.assertEqual(self.state.place.step, "fix")
        self.assertEqual(len(self.state.stage.samples), 1)
        self.assertEqual(self.state.stage.determinations[-1].rejected, "spilled")
        self.fix()
        self.assertEqual(self.state.current.id, "second-2")

    def test_where_nothing_is_prepared(self) -> None:
        """The act has no place in another method."""
        taps = Taps().before().act("prepare")
        self.assertIn("nothing was prepared", fold(taps.method, taps.events).ignored[-1][1])

    def test_answers_that_do_not_fit(self) -> None:
        """Again belongs to a determination, prepare to a stage that has a preparation."""
        text = shipped_text("iron-photometer").replace("    steps:\n", FIX + "    steps:\n", 1)
        with self.assertRaisesRegex(InvalidDocument, "an answer is next, prepare or end"):
            load(text.replace("then: prepare", "then: again"))
        with self.assertRaisesRegex(InvalidDocument, "needs a stage with a preparation"):
            changed("chloride-drops-15ml", ("then: again", "then: prepare"))


class Waters(unittest.TestCase):
    def test_steps_of_one_water_only(self) -> None:
        """A boiler's sample is asked about, a stream's is not. Both are the same document."""
        method = shipped("alkalinity-drops")
        boiler, stream = method.in_water("boiler"), method.in_water("stream")
        self.assertEqual([s.id for s in boiler.before], ["cooled", "closed"])
        self.assertEqual([s.id for s in stream.before], ["closed"])
        self.assertEqual({boiler.hash, stream.hash}, {method.hash})

    def test_words_of_one_water(self) -> None:
        """The cup is filled otherwise from a cooler."""
        method = shipped("oxygen-ampoule")
        leads = {kind: method.in_water(kind).step("cup").lead for kind in ("stream", "boiler")}
        self.assertIn("slowly from below", leads["stream"])
        self.assertIn("Through a cooler", leads["boiler"])
        self.assertIs(method.in_water("stream").in_water("stream"), method.in_water("stream"))

    def test_words_of_one_measurement(self) -> None:
        """The blank's cell holds deionised water; the sheet says so for the blank alone."""
        step = compile_sheet(shipped("ammonia-colorimeter"), PointContext())["steps"]["fill"]
        self.assertEqual(list(step["worded"]), ["blank"])
        self.assertIn("deionised", step["worded"]["blank"]["title"])
        self.assertIn("the sample", step["title"])

    def test_a_wording_says_where_and_what(self) -> None:
        """One that does neither is refused."""
        for old, new, wrong in (
            ("{only: blank, title: Fill one cell to 10 mL with deionised water}",
             "{title: Fill}", "in which measurements or waters"),
            ("{only: blank, title: Fill one cell to 10 mL with deionised water}",
             "{only: blank}", "say what differs"),
        ):  # fmt: skip
            with self.assertRaisesRegex(InvalidDocument, wrong):
                changed("ammonia-colorimeter", (old, new))


class LongWaits(unittest.TestCase):
    def test_up_to_two_weeks(self) -> None:
        """1 209 600 seconds, and no more."""
        for seconds, taken in ((1_209_600, True), (1_209_601, False)):
            text = shipped_text("coliforms").replace("to_seconds: 100800", f"to_seconds: {seconds}")
            with self.subTest(seconds=seconds):
                if taken:
                    self.assertEqual(load(text).step("incubate").wait.to_seconds, seconds)
                else:
                    self.assertRaises(InvalidDocument, load, text)

    def test_the_sheet_says_that_one_may_leave(self) -> None:
        """A day is long, two minutes are not; the temperature stands beside it."""
        sheet = compile_sheet(shipped("coliforms"), PointContext())
        self.assertTrue(sheet["steps"]["incubate"]["wait"]["long"])
        self.assertIn("at 34.5 to 35.5 °C", sheet["steps"]["incubate"]["wait"]["words"])
        short = compile_sheet(shipped("oxygen-ampoule"), PointContext())["steps"]["develop"]
        self.assertNotIn("long", short["wait"])

    def test_as_long_as_the_instrument_shows(self) -> None:
        """Typed at the wait; ended before, it is flagged."""
        method = changed(
            "oxygen-ampoule",
            ("wait: {rule: exactly, seconds: 120, starts: snap, late: matters}",
             "wait: {rule: typed, starts: snap}"),
        )  # fmt: skip
        taps = Taps(method)
        for step in ("cup", "snap", "turn"):
            taps.act("tick", step=step)
        taps.act("clock", step="develop", seconds=90).later(40).act("time", step="develop")
        taps.act("read", step="compare", raw="6")
        flags = conclude(method, fold(method, taps.events))[0].flags
        self.assertRegex(flags[0], r"waited \d\d s of 90 s")
        wrong = Taps(method).act("clock", step="develop", seconds=90)
        self.assertIn("not at hand", fold(method, wrong.events).ignored[-1][1])
