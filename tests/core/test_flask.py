"""Two colours in one flask, each with its repeats: flask by flask."""

import unittest

from kessa_core.methods import Method, load, shipped
from kessa_core.methods.catalogue import shipped_text
from kessa_core.methods.load import InvalidDocument
from kessa_core.runs import RunState, conclude, fold
from kessa_core.runs.state import RAN_OUT
from tests.builders.runs import Taps

SAMPLE_ACT = ("p", "m")


def drops() -> Method:
    return shipped("alkalinity-drops")


class Flasks:
    """Titrates flask after flask of P and M alkalinity."""

    def __init__(self, method: Method | None = None) -> None:
        self.method = method or drops()
        self.taps = Taps(self.method).before()

    def p(self, count: int | None) -> "Flasks":
        """The first colour; None: colourless at once."""
        self.taps.stage = self.method.stages[0]
        for step in ("rinse", "fill", "p-indicator"):
            self.taps.act("tick", step=step)
        if count is None:
            self.taps.act("answer", step="p-colour", answer="clear")
            return self
        self.taps.act("answer", step="p-colour", answer="pink")
        self.taps.act("set", count=count).act("end").act("next")
        return self

    def m(self, count: int) -> "Flasks":
        """On to the second colour, up to this count in all."""
        self.taps.act("tick", step="m-indicator")
        self.taps.act("set", count=count).act("end").act("next")
        return self

    @property
    def state(self) -> RunState:
        return fold(self.method, self.taps.events)

    @property
    def said(self) -> list[str]:
        return [
            one.value.text if one.value else f"{one.finish}: {one.cause}"
            for one in conclude(self.method, self.state)
        ]


class TwoColours(unittest.TestCase):
    def test_flask_by_flask(self) -> None:
        """P, M, P, M: each stage has its two, and both results come at the end."""
        flasks = Flasks().p(12).m(30).p(12).m(31)
        ids = [d.id for d in flasks.state.determinations]
        self.assertEqual(ids, ["p.first-1", "p.second-1", "m.first-1", "m.second-1"])
        self.assertEqual(flasks.state.finish, "done")
        self.assertEqual(flasks.said, ["115 mg/L as CaCO₃", "300 mg/L as CaCO₃"])

    def test_the_count_goes_on(self) -> None:
        """M begins at the count where P ended, and cannot end below it."""
        flasks = Flasks().p(12)
        flasks.taps.act("tick", step="m-indicator")
        self.assertEqual(flasks.state.current.count, 12)
        flasks.taps.act("set", count=9)
        self.assertIn("below the count of the stage before", flasks.state.ignored[-1][1])
        flasks.taps.act("drop").act("end").act("next")
        self.assertEqual(flasks.state.stages[1].samples[0].count, 13)

    def test_either_may_ask_for_a_third(self) -> None:
        """P agrees and M does not: a third flask, through both colours."""
        flasks = Flasks().p(12).m(30).p(12).m(34)
        self.assertEqual(flasks.state.current.id, "p.third-1")
        flasks.p(12).m(31)
        self.assertEqual(flasks.said, ["115 mg/L as CaCO₃", "300 mg/L as CaCO₃"])

    def test_none_agrees(self) -> None:
        """M is not repeatable; P stands."""
        flasks = Flasks().p(12).m(30).p(12).m(34).p(12).m(40)
        self.assertEqual([s.finish for s in flasks.state.stages], ["done", "not-repeatable"])

    def test_a_lost_flask_takes_both_with_it(self) -> None:
        """Spilled at M: P of that flask is struck too, and P comes first again."""
        flasks = Flasks().p(12)
        flasks.taps.act("tick", step="m-indicator").act("reject", cause="spilled")
        self.assertEqual(flasks.state.current.id, "p.first-2")
        self.assertEqual(flasks.state.stages[0].determinations[0].rejected, "spilled")
        self.assertEqual(flasks.p(12).m(30).p(12).m(30).state.finish, "done")

    def test_no_p_and_still_m(self) -> None:
        """Colourless at once, twice: P is absent, M counts from nothing."""
        flasks = Flasks().p(None).m(18).p(None).m(18)
        self.assertEqual(flasks.said, ["absent, < 10", "175 mg/L as CaCO₃"])

    def test_a_flask_that_runs_out(self) -> None:
        """No change at 60: more than that for M, and P was not repeated; a dilution begins both."""
        flasks = Flasks().p(12)
        flasks.taps.act("tick", step="m-indicator").act("set", count=60).act("beyond")
        self.assertEqual([s.finish for s in flasks.state.stages], ["not-tested", "beyond"])
        self.assertEqual(flasks.state.stages[0].cause, RAN_OUT)
        flasks.taps.act("dilute", by=5)
        self.assertEqual(flasks.state.current.id, "p.first-2")
        self.assertEqual({s.dilution for s in flasks.state.stages}, {5})
        self.assertEqual(
            flasks.p(3).m(13).p(3).m(13).said, ["130 mg/L as CaCO₃", "630 mg/L as CaCO₃"]
        )

    def test_a_correction_asks_for_a_third_again(self) -> None:
        """Once a count is put right the two no longer agree."""
        flasks = Flasks().p(12).m(30).p(12).m(31)
        flasks.taps.correct("m.second-1", 36)
        self.assertEqual(flasks.state.current.id, "p.third-1")

    def test_undone(self) -> None:
        """The last act taken back: M waits for its word again."""
        flasks = Flasks().p(12).m(30)
        flasks.taps.take_back()
        self.assertEqual(flasks.state.place.spot, "reading")
        self.assertEqual(flasks.state.current.id, "m.first-1")


class OneAfterTheOther(unittest.TestCase):
    def test_single_determinations_end_a_stage_each(self) -> None:
        """Acidity: the first colour ends its stage; the second goes on from its count."""
        method = shipped("acidity-drops")
        taps = Taps(method).before()
        taps.count(4).on_to(1).act("tick", step="second-indicator")
        self.assertEqual(fold(method, taps.events).current.count, 4)
        taps.drops(6).act("end").act("next")
        values = [one.value.text for one in conclude(method, fold(method, taps.events))]
        self.assertEqual(values, ["35 mg/L as CaCO₃", "95 mg/L as CaCO₃"])

    def test_a_burette_goes_on_from_its_start(self) -> None:
        """P from 1.00 to 4.00, M on to 11.50: 3.00 and 10.50 mL of 0.02 eq/L in 100 mL."""
        method = shipped("alkalinity-burette")
        taps = Taps(method).before().read("1.00", "4.00")
        taps.on_to(1).read("11.50")
        values = [one.value.text for one in conclude(method, fold(method, taps.events))]
        self.assertEqual(values, ["30 mg/L as CaCO₃", "105 mg/L as CaCO₃"])

    def test_the_same_number_of_determinations(self) -> None:
        """One colour cannot be repeated while the other is not."""
        text = shipped_text("alkalinity-drops").replace("least: 2", "least: 1", 1)
        with self.assertRaisesRegex(InvalidDocument, "scale and number of determinations"):
            load(text)
