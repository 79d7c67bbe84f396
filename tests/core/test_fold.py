"""The run as a state machine: every walk of a drop count, undo, and any order of arrival."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from kessa_core.readings.reading import half_steps
from kessa_core.runs import Position, fold
from kessa_core.runs.state import RunState
from tests.builders.runs import Taps, big, walk


def folded(taps: Taps) -> RunState:
    return fold(taps.method, taps.events)


class Walks(unittest.TestCase):
    def test_repeat_rule_leads_the_run(self) -> None:
        """Agreeing counts end the run; else a third; else no result."""
        for samples, finish, place in (
            ((7, 8), "done", "finished"),
            ((7, 12), "", "step"),
            ((7, 12, 8), "done", "finished"),
            ((7, 9, 8), "done", "finished"),
            ((7, 12, 17), "not-repeatable", "finished"),
        ):
            with self.subTest(samples=samples):
                state = folded(walk(samples))
                self.assertEqual((state.finish, state.place.spot), (finish, place))
                self.assertEqual([d.count for d in state.stage.samples], list(samples))
                self.assertEqual(state.ignored, [])

    def test_a_blank_over_its_allowance_stops_the_run(self) -> None:
        """Three drops: failed and struck; a new blank is offered; the sample waits."""
        taps = Taps().before().count(3, "blank")
        state = folded(taps)
        self.assertEqual(state.place, Position("blank-failed"))
        self.assertEqual(state.determinations[0].rejected, "blank over 2 drops")
        taps.drops(1)
        self.assertIn("no count is under way", folded(taps).ignored[0][1])
        taps.act("again").count(1, "blank")
        state = folded(taps)
        self.assertEqual([d.id for d in state.determinations], ["blank-1", "blank-2", "first-1"])
        self.assertEqual([d.id for d in state.stage.blanks], ["blank-2"])

    def test_no_change_at_the_maximum_ends_the_run(self) -> None:
        """At 24 the count stops by itself; no change there ends the run beyond its range."""
        taps = Taps().before().count(1, "blank").steps("sample").drops(23)
        taps.act("beyond")
        self.assertEqual(folded(taps).ignored[0][1], "the maximum count is not reached")
        taps.drops(3)
        self.assertEqual(folded(taps).current.count, 24)
        taps.act("beyond")
        self.assertEqual(folded(taps).finish, "beyond")

    def test_a_check_that_fails_before_the_count(self) -> None:
        """A wrong start colour begins the determination again; a wrong pH ends the run."""
        taps = Taps().before()
        for step in ("rinse-deionised", "fill-blank", "indicator"):
            taps.act("tick", step=step)
        taps.act("answer", step="start-colour", answer="wrong")
        state = folded(taps)
        self.assertEqual(state.determinations[0].rejected, "start colour was wrong")
        self.assertEqual((state.current.id, state.place.step), ("blank-2", "rinse-deionised"))
        state = folded(Taps().before("outside"))
        self.assertEqual((state.finish, state.cause), ("not-tested", "sample pH outside 6.5–10"))

    def test_a_flag_warns_and_travels(self) -> None:
        """An adjusted pH goes on, flagged."""
        self.assertEqual(
            folded(Taps().before("adjusted")).flags, ["pH brought into 6.5–10 before the test"]
        )


class Reading(unittest.TestCase):
    def test_last_drop_in_every_school(self) -> None:
        """Sure, too strong, in doubt: the reported count in half drops."""
        for how, counted in (("", 14), ("back-off", 12), ("doubt", 13)):
            with self.subTest(how=how):
                taps = Taps().before().count(1, "blank").count(7, how=how)
                self.assertEqual(half_steps(folded(taps).stage.samples[0].seen), counted)

    def test_a_blank_is_never_taken_back_below_its_first_drop(self) -> None:
        """Too strong at the first drop of a blank changes nothing; in a sample it does."""
        taps = Taps().before().steps("blank").drops(1).act("end").act("back-off")
        self.assertIn("has at least one drop", folded(taps).ignored[0][1])
        taps.act("next").steps("sample").drops(1).act("end").act("back-off")
        self.assertEqual(folded(taps).current.kind, "backed-off")

    def test_a_check_drop_is_recorded_and_not_counted(self) -> None:
        """The count stays; the check drop is kept beside it."""
        taps = Taps().before().steps("blank").drops(2).act("end").act("check-drop").act("next")
        blank = folded(taps).stage.blanks[0]
        self.assertEqual((blank.count, blank.check_drops), (2, 1))

    def test_a_typed_count_replaces_the_taps(self) -> None:
        """The plain field is the other way in; above the maximum it is refused."""
        taps = Taps().before().steps("blank").drops(1).act("set", count=2)
        self.assertEqual(folded(taps).current.count, 2)
        self.assertEqual(folded(taps.act("set", count=25)).ignored[0][1], "above the maximum count")


class Undo(unittest.TestCase):
    def test_any_act_can_be_taken_back(self) -> None:
        """A drop, the end, going on: the state is as before it."""
        taps = Taps().before().count(1, "blank").steps("sample").drops(7)
        for act in ("drop", "end"):
            before = folded(taps)
            after = folded(taps.act(act).take_back())
            with self.subTest(act=act):
                self.assertEqual(after.place, before.place)
                self.assertEqual(after.current.count, before.current.count)
        finished = walk((7, 8))
        self.assertEqual(folded(finished.take_back()).place, Position("reading"))

    def test_an_undo_can_be_undone(self) -> None:
        """Taking back the taking back brings the drop again."""
        taps = Taps().before().steps("blank").drops(2).take_back()
        self.assertEqual(folded(taps).current.count, 1)
        self.assertEqual(folded(taps.take_back()).current.count, 2)

    def test_an_undo_of_something_unknown_changes_nothing(self) -> None:
        """It waits: what it names may still arrive."""
        taps = Taps().before().steps("blank").drops(2).act("undo", event="not-here-yet")
        self.assertEqual(folded(taps).current.count, 2)


class Arrival(unittest.TestCase):
    @settings(max_examples=60)
    @given(st.randoms(use_true_random=False), st.sampled_from([(7, 8), (7, 12, 8), (7, 12, 17)]))
    def test_order_and_doubles_of_arrival_do_not_matter(self, random, samples) -> None:
        """Shuffled and doubled events fold to the same state."""
        taps = walk(samples)
        taps.drops(1).take_back()
        shuffled = taps.events + random.sample(taps.events, 10)
        random.shuffle(shuffled)
        self.assertEqual(fold(big(), shuffled), folded(taps))

    @settings(max_examples=80)
    @given(
        st.lists(
            st.sampled_from(
                [
                    "drop",
                    "end",
                    "next",
                    "back-off",
                    "doubt",
                    "again",
                    "undo",
                    "tick",
                    "answer",
                    "reject",
                    "beyond",
                    "check-drop",
                ]
            ),
            max_size=60,
        )
    )
    def test_no_sequence_of_acts_breaks_the_machine(self, acts) -> None:
        """Whatever comes, the fold ends in a place that exists and no count passes the maximum."""
        taps = Taps()
        for act in acts:
            here = folded(taps).place.step
            data = {
                "tick": {"step": here},
                "undo": {"event": taps.events[-1].id if taps.events else "x"},
            }
            answers = {"answer": {"step": here, "answer": "inside" if "ph" in here else "right"}}
            taps.act(act, **(data | answers).get(act, {}))
        state = folded(taps)
        self.assertIn(state.place.spot, ("step", "reading", "blank-failed", "finished"))
        self.assertTrue(all(0 <= d.count <= 24 for d in state.determinations))
        self.assertEqual(
            sum(1 for d in state.determinations if not d.closed and not d.rejected) <= 1, True
        )
