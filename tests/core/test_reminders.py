"""When a test that waits for hours or days is to be read."""

import unittest
from datetime import UTC, datetime, timedelta

from kessa_core.methods import shipped
from kessa_core.runs.reminders import Reminder, has_long_wait, reminder_of
from tests.builders.runs import START, Taps

COLIFORMS = shipped("coliforms")


def incubating() -> Taps:
    """Powder is in since 3 s times the acts; the bottle stands in the incubator."""
    return Taps(COLIFORMS).before().act("tick", step="hands").act("tick", step="powder")


class Reminders(unittest.TestCase):
    def test_only_long_waits(self) -> None:
        """Hours, not the minutes of a colour; nothing before and nothing after the wait."""
        self.assertTrue(has_long_wait(COLIFORMS))
        self.assertFalse(has_long_wait(shipped("nitrate-comparator")))
        before = Taps(COLIFORMS)
        self.assertIsNone(reminder_of(COLIFORMS, before.events))
        after = incubating()
        after.extra = 25 * 3600
        after.act("time", step="incubate")
        self.assertIsNone(reminder_of(COLIFORMS, after.events))

    def test_from_when_to_when(self) -> None:
        """24 to 28 hours after the powder, whatever was done since."""
        taps = incubating()
        began = START + timedelta(seconds=3 * len(taps.events))
        found = reminder_of(COLIFORMS, taps.act("note", text="warm room").events)
        expected = Reminder(
            "Put it into the incubator", began + timedelta(hours=24), began + timedelta(hours=28)
        )
        self.assertEqual(found, expected)

    def test_when(self) -> None:
        """At the first and the last moment it is due; a second outside it is not."""
        ready = datetime(2026, 3, 29, 0, 30, tzinfo=UTC)
        until = ready + timedelta(hours=4)
        second = timedelta(seconds=1)
        reminder = Reminder("x", ready, until)
        for now, expected in (
            (ready - second, "waiting"), (ready, "due"), (until, "due"), (until + second, "late"),
        ):  # fmt: skip
            with self.subTest(now=now):
                self.assertEqual(reminder.when(now), expected)
        self.assertEqual(Reminder("x", ready, None).when(until + 99 * second), "due")
