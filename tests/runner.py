"""Django's runner, which also says how many tests passed and failed, and which took longest."""

import json
import os
import time
import unittest
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import time_machine
from django.conf import settings as django_settings
from django.core.management import call_command
from django.db import connection
from django.test.runner import DiscoverRunner
from hypothesis import HealthCheck, settings

from tests.browser.hook import open_bench
from tests.template import copied_from_template

settings.register_profile(
    "kessa", derandomize=True, deadline=None, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("kessa")


TODAY = datetime(2026, 11, 19, 9, 40, tzinfo=UTC)
"""The day on which every test runs that has no browser; time goes on from there."""


class Timed(unittest.TextTestResult):
    """Keeps how long each test took, and ends with the slowest."""

    SHOWN = 8

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.took: dict[str, float] = {}

    def startTest(self, test: unittest.TestCase) -> None:
        self._began = time.perf_counter()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:
        super().stopTest(test)
        self.took[test.id()] = time.perf_counter() - self._began

    def printErrors(self) -> None:
        super().printErrors()
        shown = len(self.took) if self.showAll else self.SHOWN
        slowest = sorted(self.took.items(), key=lambda one: -one[1])[:shown]
        self.stream.writeln("slowest, in seconds:")
        for name, seconds in slowest:
            self.stream.writeln(f"{seconds:7.1f} {name}")


class CountingRunner(DiscoverRunner):
    """Writes the counts where ./kessa test reads them."""

    travels = True

    def setup_databases(self, **kwargs: Any) -> Any:
        """The databases, with the rights that the application has."""
        if connection.vendor != "postgresql":
            return super().setup_databases(**kwargs)
        with copied_from_template():
            made = super().setup_databases(**kwargs)
        if made:
            from kessa.platform.grants import grant_application

            grant_application()
        return made

    def run_suite(self, suite: unittest.TestSuite, **kwargs: Any) -> Any:
        if not self.travels:
            return super().run_suite(suite, **kwargs)
        with time_machine.travel(TODAY):
            return super().run_suite(suite, **kwargs)

    def get_resultclass(self) -> type[unittest.TextTestResult]:
        return super().get_resultclass() or Timed

    def suite_result(self, suite: unittest.TestSuite, result: Any, **kwargs: Any) -> int:
        broken = [test for test, _ in (*result.failures, *result.errors)]
        broken += result.unexpectedSuccesses
        failed = len({getattr(test, "test_case", test).id() for test in broken})
        passed = result.testsRun - failed - len(result.skipped) - len(result.expectedFailures)
        if place := os.environ.get("KESSA_TEST_COUNTS"):
            Path(place).write_text(json.dumps({"passed": max(passed, 0), "failed": failed}))
        return int(super().suite_result(suite, result, **kwargs))


class BrowserRunner(CountingRunner):
    """Collects the static files once, under their hashed names. Pages and server share the
    browser's own day."""

    travels = False

    def setup_test_environment(self, **kwargs: Any) -> None:
        os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")
        super().setup_test_environment(**kwargs)
        call_command("collectstatic", interactive=False, verbosity=0)
        open_bench(Path(django_settings.STATIC_ROOT))
