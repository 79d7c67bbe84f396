"""Tests that wait until tomorrow: what Today and the bench say of them."""

from datetime import timedelta

import time_machine

from kessa.flows.receiving import keep
from kessa.runs.models import Run
from tests.builders.rooms import RoomTest
from tests.builders.runs import START
from tests.core.test_reminders import incubating


class Reminders(RoomTest):
    def setUp(self) -> None:
        with time_machine.travel(START, tick=False):
            self.run_ = self.room.new_run(method="coliforms")
            taps = incubating()
            taps.run = str(self.run_.pk)
            events = [event.as_json() | {"run": str(self.run_.pk)} for event in taps.events]
            keep(self.room.programme, self.room.monitor, events)

    def said(self, path: str, hours: float) -> str:
        """What a page says so long after the beginning."""
        with time_machine.travel(START + timedelta(hours=hours), tick=False):
            self.client.force_login(self.room.monitor)
            return " ".join(self.client.get(self.room.url(path)).content.decode().split())

    def test_today_and_bench(self) -> None:
        """From when to when; now; too late: with the day, in the programme's time."""
        for hours, words in (
            (1, "Read Tuesday 3 March, 09:52 to 13:52"),
            (25, "Read now, until Tuesday 13:52"),
            (29, "Too late to read since Tuesday 13:52"),
        ):
            for path in ("today/", "bench/"):
                with self.subTest(path=path, hours=hours):
                    self.assertIn(words, self.said(path, hours))

    def test_others_see_it_too(self) -> None:
        """A colleague's bottle is on the list of tests of others."""
        with time_machine.travel(START + timedelta(hours=25), tick=False):
            self.client.force_login(self.room.people["reviewer"])
            self.assertContains(self.client.get(self.room.url("bench/")), "Read now, until")

    def test_it_is_over_when_it_was_read(self) -> None:
        """Nothing is said of a test that ended, and no query is made for methods without waits."""
        Run.objects.of(self.room.programme).update(finish="done")
        self.room.new_run()
        self.assertNotIn("Read now", self.said("today/", 25))
