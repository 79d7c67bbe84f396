"""Pages that show days, on the days that catch mistakes."""

import unittest
from datetime import UTC, datetime

import time_machine
from django.utils import timezone

from kessa.platform.days import day_text
from tests.web import test_log, test_pages, test_review, test_walk

DAYS = {
    "the end of a month": datetime(2026, 10, 31, 23, 40, tzinfo=UTC),
    "29 February": datetime(2028, 2, 29, 12, 0, tzinfo=UTC),
    "the night before summer time": datetime(2027, 3, 28, 0, 30, tzinfo=UTC),
    "New Year": datetime(2027, 1, 1, 0, 10, tzinfo=UTC),
}
PLACES = (test_log.Log, test_review.Queue, test_walk.Walk)
ALONE = "test_usual_needs_eight_results"


class Days(unittest.TestCase):
    databases = {"default"}

    def test_the_pages_on_each_of_these_days(self) -> None:
        """The tests of log, review and the walk, and what is usual, run again on each day."""
        for name, day in DAYS.items():
            with self.subTest(name), time_machine.travel(day):
                suite = unittest.TestSuite([test_pages.Pages(ALONE)])
                for place in PLACES:
                    suite.addTests(unittest.defaultTestLoader.loadTestsFromTestCase(place))
                result = unittest.TestResult()
                suite.run(result)
                broken = [
                    f"{test}: {why[-300:]}" for test, why in (*result.failures, *result.errors)
                ]
                self.assertEqual(broken, [])
                self.assertGreater(result.testsRun, 20)

    def test_the_day_of_a_moment_is_the_readers(self) -> None:
        """(moment, its day in London): summer time, and the last minutes of a month and a year."""
        for moment, day in (
            (datetime(2026, 7, 31, 22, 59, tzinfo=UTC), "31 July 2026"),
            (datetime(2026, 7, 31, 23, 0, tzinfo=UTC), "1 August 2026"),
            (datetime(2026, 12, 31, 23, 59, tzinfo=UTC), "31 December 2026"),
        ):
            with self.subTest(day), timezone.override("Europe/London"):
                self.assertEqual(day_text(moment), day)
