"""A device whose clock is off: its times are corrected by what it learnt; the result says so."""

import unittest
from dataclasses import replace
from datetime import datetime, timedelta

from kessa_core.errors import BadEvent
from kessa_core.runs import conclude, fold, read_event
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
