"""Pages that show days, on the days that catch mistakes."""

import unittest
from datetime import UTC, datetime

import time_machine

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
