"""Django's runner, which also says how many tests passed and failed."""

import json
import os
import unittest
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.test.runner import DiscoverRunner
from hypothesis import HealthCheck, settings

settings.register_profile(
    "kessa", derandomize=True, deadline=None, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("kessa")


class CountingRunner(DiscoverRunner):
    """Writes the counts where ./kessa test reads them."""

    def suite_result(self, suite: unittest.TestSuite, result: Any, **kwargs: Any) -> int:
        broken = [test for test, _ in (*result.failures, *result.errors)]
        broken += result.unexpectedSuccesses
        failed = len({getattr(test, "test_case", test).id() for test in broken})
        passed = result.testsRun - failed - len(result.skipped) - len(result.expectedFailures)
        if place := os.environ.get("KESSA_TEST_COUNTS"):
            Path(place).write_text(json.dumps({"passed": max(passed, 0), "failed": failed}))
        return int(super().suite_result(suite, result, **kwargs))


class BrowserRunner(CountingRunner):
    """Collects the static files once, under their hashed names."""

    def setup_test_environment(self, **kwargs: Any) -> None:
        os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")
        super().setup_test_environment(**kwargs)
        call_command("collectstatic", interactive=False, verbosity=0)
