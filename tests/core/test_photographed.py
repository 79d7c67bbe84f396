"""Photographs of what is read: where a run stands while they wait, and what a later reading makes
of it."""

import unittest

from kessa_core.errors import BadEvent
from kessa_core.methods import shipped
from kessa_core.runs import RunState, conclude, fold
from kessa_core.runs.act_models import read_act
from tests.builders.runs import Taps, begun

A, B = "a" * 64, "b" * 64
NITRATE, IRON, STRIP, BARE = (
    "nitrate-comparator", "iron-long-cell", "strip-three-pads", "conductivity-meter-bare",
)  # fmt: skip


def read(taps: Taps, which: str, raw: str, slot: str = "reading", **more: object) -> Taps:
    """From another device, as another person."""
    here = taps.device
    taps.on("device-2").act("read-photo", determination=which, slot=slot, raw=raw, **more)
    return taps.on(here)


def folded(taps: Taps) -> RunState:
    return fold(taps.method, taps.events)


def said(taps: Taps) -> list[tuple[str, str, str]]:
    """(finish, value, cause) of each outcome."""
    return [
        (one.finish, one.value.text if one.value else "", one.cause)
        for one in conclude(taps.method, folded(taps))
    ]


class Photographs(unittest.TestCase):
    def test_read_later_gives_the_value_of_a_reading_at_the_bench(self) -> None:
        """Awaiting until then; afterwards the same outcome, interval and flags."""
        taps = begun(NITRATE).photograph(A)
        state = folded(taps)
        self.assertEqual((state.finish, state.place.spot), ("awaiting", "finished"))
        self.assertEqual(said(taps), [("awaiting", "", "")])
        later = conclude(taps.method, folded(read(taps, "first-1", "3")))[0]
        direct = begun(NITRATE).read("3")
        at_once = conclude(direct.method, folded(direct))[0]
        self.assertEqual(later.value, at_once.value)
        self.assertEqual((later.finish, later.flags), ("done", at_once.flags))

    def test_the_time_of_the_photograph_is_the_time_of_the_reading(self) -> None:
        """In time and read a day later: no flag; photographed an hour late: flagged."""
        in_time = read(begun(NITRATE).photograph(A).later(86_400), "first-1", "3")
        self.assertEqual(folded(in_time).stage.flags, [])
        taps = begun(NITRATE)
        for step in taps.stage.steps_for("sample", False):
            if step.kind == "read":
                taps.later(3600).act("photo", step=step.id, photo=A, later=1)
            else:
                taps.past(step)
        flags = folded(read(taps, "first-1", "3")).stage.flags
        self.assertEqual(len(flags), 1)
        self.assertIn("read after 4146 s", flags[0])

    def test_repeats_are_all_photographed_before_it_waits(self) -> None:
        """Two of a method that asks for two, with its blank; read in any order."""
        taps = begun(IRON).read("0.00", who="blank")
        taps.photograph(A)
        self.assertEqual(folded(taps).current.role, "second")
        taps.photograph(B)
        self.assertEqual(folded(taps).finish, "awaiting")
        read(taps, "second-1", "0.52")
        self.assertEqual(folded(taps).finish, "awaiting")
        read(taps, "first-1", "0.50")
        direct = begun(IRON).read("0.00", who="blank").read("0.50").read("0.52")
        self.assertEqual(said(taps), said(direct))
        self.assertEqual(said(taps)[0][0], "done")

    def test_one_read_at_the_bench_and_one_photographed(self) -> None:
        """The first read while the second is under way: that one is not disturbed."""
        taps = begun(IRON).read("0.00", who="blank").photograph(A)
        first_step = taps.stage.steps_for("sample", False)[0]
        taps.act("tick", step=first_step.id)
        before = folded(taps).place
        read(taps, "first-1", "0.50")
        self.assertEqual(folded(taps).place, before)
        self.assertEqual(folded(taps).ignored, [])

    def test_photographs_that_disagree_have_no_third(self) -> None:
        """The sample is gone: not repeatable, and the run has ended."""
        taps = begun(IRON).read("0.00", who="blank").photograph(A)
        taps.photograph(B)
        read(read(taps, "first-1", "0.10"), "second-1", "0.90")
        state = folded(taps)
        self.assertEqual((state.finish, state.place.spot), ("not-repeatable", "finished"))

    def test_a_blank_that_does_not_pass_from_its_photograph(self) -> None:
        """Nothing to compare with: not tested, with the reason."""
        taps = begun(IRON).photograph(A, who="blank")
        taps.read("0.50").read("0.50")
        self.assertEqual(folded(taps).finish, "awaiting")
        read(taps, "blank-1", "0.90")
        finish, value, cause = said(taps)[0]
        self.assertEqual((finish, value), ("not-tested", ""))
        self.assertIn("blank over", cause)

    def test_a_photograph_that_cannot_be_read(self) -> None:
        """It is rejected with the words; without another the stage has no result."""
        taps = begun(NITRATE).photograph(A)
        read(taps, "first-1", "", unreadable="blurred")
        self.assertEqual(said(taps), [("not-tested", "", "its photographs could not be read")])
        self.assertEqual(folded(taps).determinations[0].rejected, "photograph: blurred")

    def test_pads_wait_each_for_itself(self) -> None:
        """Three pads of one strip: the run waits until the last photograph is read."""
        taps = begun(STRIP).photograph(A)
        taps.on_to(1).photograph(A)
        taps.on_to(2).read("2")
        self.assertEqual(folded(taps).finish, "awaiting")
        self.assertEqual([one[0] for one in said(taps)], ["awaiting", "awaiting", "done"])
        read(taps, "hardness.first-1", "2")
        self.assertEqual(folded(taps).finish, "awaiting")
        read(taps, "nitrite.first-1", "", unreadable="glare")
        self.assertEqual([one[0] for one in said(taps)], ["done", "not-tested", "done"])
        self.assertEqual(folded(taps).finish, "done")

    def test_one_of_two_readings_photographed(self) -> None:
        """The temperature is photographed, the display read: nothing counts before both are there;
        a display above its range ends both."""
        taps = begun(BARE)
        steps = [step for step in taps.stage.steps_for("sample", False) if step.kind == "read"]
        for step in taps.stage.steps_for("sample", False):
            if step.kind != "read":
                taps.past(step)
        taps.act("photo", step=steps[0].id, photo=A, later=1)
        taps.act("read", step=steps[1].id, raw="212")
        self.assertEqual(folded(taps).finish, "awaiting")
        self.assertIsNone(folded(taps).determinations[0].seen)
        read(taps, "first-1", "12.0", slot="temperature")
        self.assertEqual(said(taps)[0][0], "done")

    def test_beside_a_reading(self) -> None:
        """A photograph kept with a reading made now changes nothing about it."""
        taps = begun(NITRATE)
        for step in taps.stage.steps_for("sample", False):
            if step.kind == "read":
                taps.act("photo", step=step.id, photo=A)
                taps.act("read", step=step.id, raw="3")
            else:
                taps.past(step)
        state = folded(taps)
        self.assertEqual(state.finish, "done")
        self.assertEqual(state.determinations[0].photos, {"reading": A})

    def test_a_second_reading_stands_beside_the_first(self) -> None:
        """It changes no value; far from the first it is flagged, close to it it is not."""
        for raw, flagged in (("3", False), ("5", True)):
            with self.subTest(raw=raw):
                taps = read(begun(NITRATE).photograph(A, twice=True), "first-1", "3")
                before = said(taps)
                read(taps, "first-1", raw, again=1)
                self.assertEqual(said(taps), before)
                flags = conclude(taps.method, folded(taps))[0].flags
                self.assertEqual(any("second" in flag for flag in flags), flagged)

    def test_what_has_no_place(self) -> None:
        """Each is kept, and named with its reason."""
        done = read(begun(NITRATE).photograph(A), "first-1", "3")
        for act, data, reason in (
            (
                "read-photo",
                {"determination": "first-1", "slot": "reading", "raw": "2"},
                "been read",
            ),
            ("read-photo", {"determination": "third-1", "slot": "reading", "raw": "2"}, "no such"),
            ("read-photo", {"determination": "first-1", "slot": "other", "raw": "2"}, "no such"),
            ("photo", {"step": "none", "photo": A, "later": 1}, "not at hand"),
            ("ask-again", {"determination": "first-9", "slot": "reading"}, "no such"),
        ):
            with self.subTest(act=act, data=data):
                taps = Taps(done.method)
                taps.events = list(done.events)
                self.assertIn(reason, folded(taps.act(act, **data)).ignored[-1][1])
        titration = begun("hardness-burette")
        steps = titration.stage.steps_for("sample", False)
        for step in steps:
            if step.kind == "read":
                titration.act("photo", step=step.id, photo=A, later=1)
                break
            titration.act("tick", step=step.id)
        self.assertIn("not made from a photograph", folded(titration).ignored[-1][1])

    def test_a_photograph_is_named_by_its_hash(self) -> None:
        for photo in ("", "a" * 63, "A" * 64, "../" + "a" * 61):
            with self.subTest(photo=photo), self.assertRaises(BadEvent):
                read_act("photo", {"step": "read", "photo": photo})

    def test_corrected_after_it_was_read(self) -> None:
        """A reading from a photograph is corrected as any other; its undo is refused."""
        taps = read(begun(NITRATE).photograph(A), "first-1", "3")
        made = taps.events[-1].id
        taps.on("device-2").act("undo", event=made).on("device-1")
        self.assertEqual(folded(taps).finish, "done")
        taps.act("correct", determination="first-1", kind="plain", raw="4", slot="", why="misread")
        found = folded(taps)
        self.assertEqual((found.finish, found.determinations[0].raw["reading"]), ("done", "4"))

    def test_taken_back_before_it_was_read(self) -> None:
        """The step is at hand again."""
        taps = begun(NITRATE).photograph(A).take_back()
        state = folded(taps)
        step = shipped(NITRATE).step(state.place.step)
        self.assertEqual((state.finish, step.kind), ("", "read"))

    def test_who_reads(self) -> None:
        """Named from then on until it is taken back."""
        taps = begun(IRON).act("reader", name="Ada").read("0.00", who="blank")
        taps.read("0.50").act("reader", name="").read("0.52")
        self.assertEqual([d.reader for d in folded(taps).determinations], ["Ada", "Ada", ""])
