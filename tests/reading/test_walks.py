"""Shipped methods of every kind, done on the page that runs all of them."""

from pathlib import Path

from playwright.sync_api import Page, expect

from kessa.results.models import Result
from kessa_core.methods.catalogue import shipped, shipped_ids
from tests.browser.base import BrowserTest

WALK = (Path(__file__).parent / "walk.js").read_text("utf-8")
LATER = """const RealDate = Date;
Date = class extends RealDate {
  constructor(...given) { super(...(given.length ? given : [Date.now()])); }
  static now() { return RealDate.now() + (window.ahead ?? 0); }
};
const own = performance.now.bind(performance);
performance.now = () => own() + (window.ahead ?? 0);"""
"""The page's clocks, moved on where the walk waits."""


def all_sent(page: Page) -> None:
    """Every act has reached the server."""
    expect(page.locator("#sent")).to_have_text("All sent", timeout=30_000)


def one_of_each_kind() -> list[str]:
    """A method of every combination of principles, with and without what comes before a sample;
    tests/browser/test_machine.py folds each method."""
    kinds: dict[object, str] = {}
    for method_id in shipped_ids():
        stages = shipped(method_id).stages
        kind = tuple((stage.reading.by, bool(stage.roles)) for stage in stages)
        kinds.setdefault(kind, method_id)
    return list(kinds.values())


class EveryKindOfMethod(BrowserTest):
    def test_from_its_first_act_to_its_result(self) -> None:
        """Without a network to its end, then sent at once: each comes to a result for every stage,
        the same on the page and on the server."""
        page = self.sign_in(self.context())
        page.add_init_script(LATER)
        for method_id in one_of_each_kind():
            with self.subTest(method=method_id):
                bench = self.bench(page, method_id)
                page.context.set_offline(True)
                self.assertIn(page.evaluate(WALK), ("finished", "beyond"))
                page.context.set_offline(False)
                all_sent(page)
                results = Result.objects.filter(run_id=bench.run).order_by("pk")
                stages = shipped(method_id).stages
                named = [stage.id for stage in stages] if len(stages) > 1 else [""]
                self.assertEqual([one.stage for one in results][: len(stages)], named)
                shown = page.locator(".r-figure").all_inner_texts()
                self.assertIn(results[0].current.value.figure, shown)
