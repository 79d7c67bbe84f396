"""Clocks: how long a wait lasts by its rule, and what early and late mean."""

import unittest
from dataclasses import replace

from kessa_core.methods import shipped
from kessa_core.methods.steps import Band, Step, Wait
from kessa_core.readings.reading import Reading
from kessa_core.runs.clocks import Moment, due, early, late
from kessa_core.runs.state import Determination, Position, RunState, StageState, Waited

RULES = (
    (Wait(rule="exactly", seconds=60), (60, 60)),
    (Wait(rule="at-least", seconds=60), (60, None)),
    (Wait(rule="at-most", seconds=60), (0, 60)),
    (Wait(rule="between", seconds=60, to_seconds=90), (60, 90)),
    (Wait(rule="until", until="It is clear."), (0, None)),
    (Wait(rule="instrument", seconds=120, reads_itself=True), (120, None)),
)
TABLE = (Band(up_to="0.5", seconds=60), Band(up_to="2", seconds=240))


def step(wait: Wait) -> Step:
    return Step(id="stand", kind="wait", title="Let it stand", wait=wait)


def state(*stages: StageState) -> RunState:
    return RunState(Position("step", "stand"), list(stages))


class Due(unittest.TestCase):
    def test_each_rule(self) -> None:
        """At least, and at most."""
        for wait, expected in RULES:
            with self.subTest(rule=wait.rule):
                self.assertEqual(due(step(wait), state(), {}), expected)

    def test_computed_from_the_stage_before(self) -> None:
        """By its highest reading; the longest where it is missing or over its scale."""
        wait = Wait(rule="computed", of_stage="dioxide", table=TABLE)
        reader = shipped("chlorine-dioxide-sensors").stages[0].reader()
        for n, kind, seconds in (
            (40, "plain", 60),
            (50, "plain", 60),
            (60, "plain", 240),
            (300, "beyond", 240),
        ):
            held = StageState("dioxide")
            first = Determination("first", 1, slots=("reading",), closed=True, kind=kind)
            first.places["reading"] = n
            held.determinations.append(first)
            self.assertIsInstance(first.seen, Reading)
            with self.subTest(n=n, kind=kind):
                self.assertEqual(due(step(wait), state(held), {"dioxide": reader}), (seconds, None))
        nothing = state(StageState("dioxide"))
        self.assertEqual(due(step(wait), nothing, {"dioxide": reader}), (240, None))

    def test_typed_as_the_instrument_shows(self) -> None:
        """So long as was typed; until then nothing is due."""
        wait, held = step(Wait(rule="typed")), state()
        self.assertEqual(due(wait, held, {}), (0, None))
        held.typed["stand"] = 210
        self.assertEqual(due(wait, held, {}), (210, None))


class InTime(unittest.TestCase):
    def test_early(self) -> None:
        """A second is nothing; more is flagged."""
        stand = step(RULES[0][0])
        for seconds, flagged in ((60, False), (59.2, False), (58.5, True)):
            said = early(stand, Waited("stand", seconds, 60, 60))
            with self.subTest(seconds=seconds):
                self.assertEqual(bool(said), flagged)

    def test_late_only_where_it_matters(self) -> None:
        """Ten seconds' grace after an exact time; none of it where late is fine."""
        method = shipped("phosphate-photometer")
        step = next(s for s in method.every_step if s.wait and s.wait.rule == "exactly")
        seconds = step.wait.seconds
        waited = Waited(step.id, seconds, seconds, seconds)
        self.assertEqual(late(method, waited, seconds + 9, "read"), "")
        self.assertIn(f"due by {seconds} s", late(method, waited, seconds + 30, "read"))
        self.assertEqual(late(method, replace(waited, most=None), seconds + 900, "read"), "")

    def test_the_pages_own_clock_is_used_where_it_can_be(self) -> None:
        """A wall clock that was set back meanwhile changes nothing on one page."""
        before = Moment(5000.0, "page-1", 5000.0)
        self.assertEqual(Moment(1400.0, "page-1", 65000.0).since(before), 60.0)
        self.assertEqual(Moment(5060.0, "page-2", 100.0).since(before), 60.0)
