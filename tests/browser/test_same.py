"""A bench page that acts at random, and the core that folds what it sent, agree."""

import random
from pathlib import Path

from kessa.flows.evaluating import state_of
from kessa.pages.bench.digest import digest
from kessa.runs.models import Event, Run
from tests.browser.base import BrowserTest

RANDOM = (Path(__file__).parent / "random_acts.js").read_text("utf-8")
METHODS = ("hardness-burette", "strip-three-pads", "ph-meter")
"""One of each kind of page; tests/browser/test_machine.py folds every method."""


class SameEverywhere(BrowserTest):
    def test_random_acts(self) -> None:
        """90 random acts each: page and core fold them to the same state."""
        page = self.sign_in(self.context())
        for number, method in enumerate(METHODS):
            with self.subTest(method=method):
                bench = self.bench(page, method)
                draw = random.Random(number)
                chances = [draw.random() for _ in range(270)]
                page.evaluate(RANDOM, {"chances": chances, "acts": 90, "ends": True})
                bench.all_sent()
                run = Run.objects.get(pk=bench.run)
                self.assertGreater(Event.objects.filter(run=run).count(), 80)
                self.assertEqual(bench.digest(), [digest(state_of(run))])
