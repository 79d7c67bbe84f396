"""Corrections of readings: what stood before stays, and the run stands where the readings lead."""

import unittest

from kessa_core.errors import BadEvent
from kessa_core.readings.reading import format_reading, half_steps
from kessa_core.runs import fold, read_event
from kessa_core.runs.state import Position, RunState
from tests.builders.runs import Taps, big, outcome_of, walk


def folded(taps: Taps) -> RunState:
    return fold(taps.method, taps.events)


class Corrections(unittest.TestCase):
    def test_where_a_corrected_run_stands(self) -> None:
        """(samples, correction) -> (finish, place, used counts)."""
        for samples, (which, drops, kind), finish, spot, counts in (
            ((7, 8), ("first-1", 8, "plain"), "done", "finished", [8, 8]),
            ((7, 8), ("first-1", 8, "doubt"), "done", "finished", [7.5, 8]),
            ((7, 8), ("second-1", 12, "plain"), "", "step", [7, 12]),
            ((7, 12, 8), ("second-1", 7, "plain"), "done", "finished", [7, 7, 8]),
            ((7, 12, 17), ("third-1", 8, "plain"), "done", "finished", [7, 12, 8]),
            ((7, 12, 8), ("third-1", 8, "struck"), "", "step", [7, 12]),
            ((7, 12, 8), ("third-1", 17, "plain"), "not-repeatable", "finished", [7, 12, 17]),
            ((7, 8), ("blank-1", 3, "plain"), "", "blank-failed", [7, 8]),
            ((7, 8), ("blank-1", 1, "plain"), "done", "finished", [7, 8]),
        ):
            with self.subTest(samples=samples, which=which, drops=drops, kind=kind):
                state = folded(walk(samples).correct(which, drops, kind))
                self.assertEqual((state.finish, state.place.spot), (finish, spot))
                self.assertEqual([half_steps(d.seen) / 2 for d in state.stage.samples], counts)
                self.assertEqual(state.ignored, [])

    def test_the_old_reading_stays_with_its_reason(self) -> None:
        """Two corrections of one reading: both stand on the record."""
        taps = walk((7, 8)).correct("first-1", 9, why="wrong line").correct("first-1", 8, "doubt")
        found = folded(taps).stage.samples[0]
        self.assertEqual([(c.was, c.why) for c in found.corrections],
                         [("7", "wrong line"), ("9", "misread")])  # fmt: skip
        self.assertEqual(format_reading(found.seen), "7 or 8")

    def test_the_corrected_value(self) -> None:
        """8 and 8 drops: 62 mg/L, where 7 and 8 made 58."""
        taps = walk((7, 8)).correct("first-1", 8)
        self.assertEqual(outcome_of(big(), folded(taps)).value.text, "62 mg/L as Cl")

    def test_after_a_blank_was_corrected_away_a_new_one_brings_the_result_back(self) -> None:
        """The samples are kept; the run asks for a blank, then reports again."""
        taps = walk((7, 8)).correct("blank-1", 3)
        self.assertEqual(folded(taps).place, Position("blank-failed"))
        state = folded(taps.act("again").count(1, "blank"))
        self.assertEqual((state.finish, [d.count for d in state.stage.samples]), ("done", [7, 8]))

    def test_a_determination_under_way_is_finished_first(self) -> None:
        """Third begun, then two made to agree: the third goes on and counts."""
        taps = walk((7, 12)).steps("sample").drops(2).correct("second-1", 8)
        self.assertEqual(folded(taps).current.role, "third")
        state = folded(taps.drops(5).act("end").act("next"))
        self.assertEqual(
            (state.finish, [d.count for d in state.stage.samples]), ("done", [7, 8, 7])
        )

    def test_what_cannot_be_corrected(self) -> None:
        """Each refused with its reason, and the result stays as it was."""
        for taps, reason in (
            (walk((7, 8)).correct("third-1", 8), "there is no such measurement"),
            (walk((7, 8)).correct("first-1", 40), "above the maximum count"),
            (walk((7, 8)).correct("first-1", 1, "doubt"), "no count below the first one"),
            (walk((7,)).act("stop", cause="dark").correct("first-1", 8), "the test was ended"),
            (
                walk((7,)).act("stop", finish="not-applicable").correct("first-1", 8),
                "the test was ended",
            ),
            (Taps().before().count(1, "blank").beyond().correct("first-1", 9), "no such"),
        ):
            with self.subTest(reason=reason):
                before = folded(walk((7, 8))).finish
                self.assertIn(reason, folded(taps).ignored[0][1])
                self.assertEqual(before, "done")

    def test_a_correction_is_not_taken_back(self) -> None:
        """It is corrected again instead; an undo that names it changes nothing."""
        state = folded(walk((7, 8)).correct("first-1", 8).take_back())
        self.assertEqual(state.stage.samples[0].count, 8)

    def test_a_correction_needs_a_reason_and_a_known_kind(self) -> None:
        """Refused when it is read."""
        event = walk((7, 8)).correct("first-1", 8).events[-1].as_json()
        for change, words in (
            ({"why": "  "}, "needs a reason"),
            ({"kind": "beyond"}, "must be one of"),
            ({"drops": -1}, "from 0 to 999"),
            ({"drops": "8"}, "from 0 to 999"),
        ):
            with self.subTest(change=change), self.assertRaisesRegex(BadEvent, words):
                read_event(event | {"data": event["data"] | change})


class Holding(unittest.TestCase):
    def test_another_device_waits_until_it_takes_over(self) -> None:
        """Its drops are kept and named, and count once it has taken over."""
        taps = Taps().before().steps("blank").drops(1).on("device-2").drops(1)
        state = folded(taps)
        self.assertEqual(state.current.count, 1)
        self.assertEqual(state.ignored[0][1], "another device is doing this measurement")
        state = folded(taps.act("take-over").drops(1))
        self.assertEqual((state.current.count, state.current.holder), (2, "device-2"))

    def test_the_first_device_is_out_after_the_hand_over(self) -> None:
        """What it still counted without a network is kept and not applied."""
        taps = Taps().before().steps("blank").drops(1).on("device-2").act("take-over")
        state = folded(taps.on("device-1").drops(3).on("device-2").drops(1))
        self.assertEqual((state.current.count, len(state.ignored)), (2, 3))

    def test_the_next_determination_belongs_to_whoever_begins_it(self) -> None:
        """Between two determinations no device holds the run."""
        taps = Taps().before().count(1, "blank").on("device-2").count(7).on("device-1").count(8)
        self.assertEqual(folded(taps).finish, "done")

    def test_taking_back_what_another_device_did_needs_the_hand_over(self) -> None:
        """Without it the undo takes nothing back."""
        taps = Taps().before().steps("blank").drops(2).on("device-2").take_back()
        self.assertEqual(folded(taps).current.count, 2)
        last_drop = taps.events[-2].id
        taps.act("take-over").act("undo", event=last_drop)
        self.assertEqual(folded(taps).current.count, 1)

    def test_acts_of_version_1_count_from_any_device(self) -> None:
        """Runs recorded before devices held determinations fold as they did."""
        taps = Taps(v=1).before().steps("blank").drops(1).on("device-2").drops(1).take_back()
        taps.on("device-1").take_back()
        state = folded(taps)
        self.assertEqual((state.current.count, state.ignored), (2, []))
