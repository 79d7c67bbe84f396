"""A device whose clock is off: its times are corrected by what it learnt; the result says so."""

import unittest
from dataclasses import replace
from datetime import datetime, timedelta

from kessa_core.errors import BadEvent
from kessa_core.runs import conclude, fold, read_event
from kessa_core.runs.clocks import Moment
from kessa_core.runs.events import with_offsets
from tests.builders.runs import Taps

DAY = 86_400_000


def walked(offset: int | None, known_from: int = 0):
    """A whole run; its device knows its offset from the act *known_from* on."""
    taps = Taps().before().count(1, "blank").count(7).count(8)
    events = [
        replace(event, offset_ms=offset if number >= known_from else None)
        for number, event in enumerate(taps.events)
    ]
    return taps.method, events


class DeviceClock(unittest.TestCase):
    def test_times_are_corrected_from_a_minute_on(self) -> None:
        """A second less stays as it was typed; waits go by the device's own clock either way."""
        method, events = walked(0)
        plain = fold(method, events)
        for offset, days, words in (
            (59_999, 0, ""), (-59_999, 0, ""), (3 * DAY, 3, "3 days slow"),
            (-3 * DAY, -3, "3 days fast"),
        ):  # fmt: skip
            state = fold(*walked(offset))
            with self.subTest(offset=offset):
                for was, now in zip(plain.determinations, state.determinations, strict=True):
                    times = [datetime.fromisoformat(d.ended_at) for d in (was, now)]
                    self.assertEqual(times[1] - times[0], timedelta(days=days))
                    self.assertEqual([w.seconds for w in was.waits], [w.seconds for w in now.waits])
                flags = [f for f in conclude(method, state)[0].flags if "clock" in f]
                self.assertEqual([words in one for one in flags], [True] if words else [])

    def test_a_clock_that_jumps_while_something_waits(self) -> None:
        """Three hours on or back between two acts: how long it took is right, on one page by the
        page's own clock, on another page by the corrected times."""
        _, events = walked(0)
        first, second = events[4], events[9]
        plain = Moment.of(second).since(Moment.of(first))
        for hours in (3, -3):
            at = (second.when + timedelta(hours=hours)).isoformat()
            jumped = replace(second, at=at, offset_ms=-hours * 3_600_000)
            self.assertEqual(Moment.of(jumped).since(Moment.of(first)), plain)
            pages = (replace(first, page="page-one", mono_ms=1000.0),
                     replace(jumped, page="page-one", mono_ms=91_000.0))  # fmt: skip
            self.assertEqual(Moment.of(pages[1]).since(Moment.of(pages[0])), 90.0)

    def test_a_device_that_slept(self) -> None:
        """Its page's clock stood still: the wall clock says how long it took; (by the page, by the
        wall, seconds that count)."""
        _, events = walked(0)
        for by_page, by_wall, counted in (
            (90, 90, 90), (90, 95, 90), (90, 100, 90), (90, 101, 101), (12, 612, 612),
            (90, 80, 90), (90, -10_000, 90), (0, 86_400, 86_400),
        ):  # fmt: skip
            first = replace(events[4], page="page-one", mono_ms=1000.0)
            at = (first.when + timedelta(seconds=by_wall)).isoformat()
            mono = 1000.0 * (1 + by_page)
            second = replace(events[9], page="page-one", mono_ms=mono, at=at)
            with self.subTest(by_page=by_page, by_wall=by_wall):
                self.assertEqual(Moment.of(second).since(Moment.of(first)), counted)

    def test_a_jump_is_learnt_of_afterwards(self) -> None:
        """The clock jumps while nothing is heard: what was done between the jump and the next word
        takes what was learnt then; a sleep as long as the jump stays a sleep."""
        for hours in (3, -3):
            _, events = walked(0)
            jump = timedelta(hours=hours)
            made = [replace(e, page="page-one", mono_ms=3000.0 * n) for n, e in enumerate(events)]
            jumped = [
                replace(e, at=(e.when + jump).isoformat()) if n >= 6 else e
                for n, e in enumerate(made)
            ]
            heard = [
                replace(e, offset_ms=-hours * 3_600_000) if n >= 10 else e
                for n, e in enumerate(jumped)
            ]
            with self.subTest(hours=hours):
                true = [e.true_when for e in with_offsets(heard)]
                self.assertEqual(true, [e.when for e in made])
                silent = [e.true_when for e in with_offsets(jumped)]
                self.assertEqual(silent, [e.when for e in jumped])

    def test_the_smallest_correction(self) -> None:
        """One minute to the millisecond; said in minutes."""
        method, events = walked(60_000)
        state = fold(method, events)
        self.assertEqual(state.clock_off_ms, 60_000)
        self.assertIn("1 minute slow", conclude(method, state)[0].flags[0])

    def test_acts_before_the_first_answer_take_what_was_learnt_later(self) -> None:
        """Made without a network, sent afterwards; and those after the last answer the last one."""
        method, events = walked(3 * DAY, known_from=20)
        whole = fold(*walked(3 * DAY))
        late = fold(method, events)
        self.assertEqual(
            [d.ended_at for d in late.determinations], [d.ended_at for d in whole.determinations]
        )
        ends = [
            replace(event, offset_ms=None if n > 5 else 3 * DAY) for n, event in enumerate(events)
        ]
        self.assertEqual(fold(method, ends).clock_off_ms, 3 * DAY)

    def test_another_device_keeps_its_own_time(self) -> None:
        """What one device learnt says nothing of another."""
        method, events = walked(3 * DAY)
        other = [replace(e, device="another-device", offset_ms=None) for e in events]
        self.assertEqual(fold(method, other).clock_off_ms, 0)

    def test_an_offset_that_no_clock_has(self) -> None:
        _, events = walked(0)
        raw = events[0].as_json()
        self.assertEqual(read_event(raw | {"offset_ms": 10**12}).offset_ms, 10**12)
        with self.assertRaisesRegex(BadEvent, "further off than any clock"):
            read_event(raw | {"offset_ms": 10**13})
