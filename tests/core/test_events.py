"""Events and run files: what is accepted, what is refused, and with which words."""

import json
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from kessa_core.errors import BadEvent
from kessa_core.runs import fold
from kessa_core.runs.events import read_event
from kessa_core.runs.export import read, write
from tests.builders.runs import RUN, Taps, begun, big, outcomes, walk

GOOD = walk((7, 8)).events[0].as_json()


class Reader(unittest.TestCase):
    def test_each_wrong_field_is_named(self) -> None:
        """Field and remedy for every kind of mistake."""
        for change, says in (
            ({"v": 3}, "version"), ({"act": "explode"}, "One of begin"),
            ({"id": "x"}, "id must be"),
            ({"run": None}, "run must be"), ({"device": "a b"}, "device must be"),
            ({"seq": -1}, "seq must be"), ({"lamport": 1.5}, "lamport must be"),
            ({"at": "yesterday"}, "not a date"), ({"at": "2026-03-02T09:52:00"}, "no offset"),
            ({"mono_ms": "fast"}, "mono_ms"), ({"data": []}, "data must be"),
            ({"page": "x\n"}, "page must be"),
            ({"shown": {"a": "\ud800"}}, "half characters"),
            ({"at": "0001-01-01T00:00:00+14:00"}, "outside the years"),
            ({"data": {"step": ["x"]}}, "short text"), ({"data": {}}, "data.step is missing"),
            ({"data": {"step": "a\x00", "answer": "b"}}, "the character 0"),
            ({"act": "set", "data": {"count": True}}, "0 to 999"), ({"shown": 3}, "shown"),
            ({"act": "stop", "data": {"finish": "done"}}, "not-tested or not-applicable"),
        ):  # fmt: skip
            with self.subTest(change=change), self.assertRaises(BadEvent) as caught:
                read_event(GOOD | change)
            self.assertIn(says, str(caught.exception))

    def test_what_is_flagged_stands_with_the_result(self) -> None:
        """With its stage where a determination is under way, with the run before; never empty."""
        early = fold(big(), begun(big()).act("flag", text="cap was off").events)
        self.assertEqual(early.stages[0].flags, ["Flagged at the bench: cap was off"])
        [outcome] = outcomes(walk((7, 8)).act("flag", text="gusty"))
        self.assertIn("Flagged at the bench: gusty", outcome.flags)
        with self.assertRaisesRegex(BadEvent, "text"):
            read_event(GOOD | {"act": "flag", "data": {"text": ""}})

    @settings(max_examples=200)
    @given(
        st.dictionaries(
            st.sampled_from(sorted(GOOD)),
            st.none()
            | st.integers()
            | st.text()
            | st.lists(st.integers())
            | st.dictionaries(st.text(max_size=3), st.floats()),
        )
    )
    def test_whatever_arrives_is_read_or_refused(self, change: dict) -> None:
        """No mutation raises anything but BadEvent."""
        try:
            self.assertIn(read_event(GOOD | change).v, (1, 2))
        except BadEvent as error:
            self.assertTrue(str(error))


class File(unittest.TestCase):
    def test_written_and_read_back(self) -> None:
        """Context first, then the events in fold order."""
        events = walk((7, 12, 8)).events
        [(context, back)] = read(write(big(), reversed(events), {"lot": {"number": "A"}}))
        self.assertEqual(back, events)
        self.assertEqual(context["method"]["hash"], big().hash)
        self.assertEqual(context["lot"], {"number": "A"})

    def test_several_runs_in_one_file(self) -> None:
        """A context line, or an event of another run, begins the next."""
        first, second = walk((7, 8)).events, Taps(run=RUN.replace("1", "2")).before().events
        plain = "".join(json.dumps(event.as_json()) + "\n" for event in [*first, *second])
        self.assertEqual(read(plain), [({}, first), ({}, second)])
        both = write(big(), first, {}) + write(big(), second, {})
        self.assertEqual([events for _, events in read(both)], [first, second])

    def test_a_line_that_cannot_be_read_is_named(self) -> None:
        """By its number."""
        text = write(big(), walk((7,)).events[:2], {})
        for line, says in (
            ("{", "Line 4 is not JSON"),
            (json.dumps({"v": 1}), "Line 4: This act"),
            ("9" * 30_000, "too long"),
        ):
            with self.subTest(says=says), self.assertRaisesRegex(BadEvent, says):
                read(text + line + "\n")
