"""First help at the bench: the wrong test, a second tap too soon, ten seconds to take back."""

from playwright.sync_api import expect

from kessa.results.models import Result
from kessa.runs.models import CANCELLED, Run
from tests.browser.base import BrowserTest


class FirstHelp(BrowserTest):
    def test_two_taps_within_a_moment_are_one_drop(self) -> None:
        """Said once; a tap later counts."""
        bench = self.bench().press("1").steps("blank")
        button = bench.page.get_by_role("button", name="Add drop")
        button.dblclick()
        told = bench.page.get_by_role("status").filter(has_text="Two taps")
        expect(told).to_be_visible()
        bench.page.wait_for_timeout(200)
        button.click()
        bench.press("e", "n").all_sent()
        self.assertIn("blank-1:2:", bench.digest()[0])

    def test_a_discarded_determination_is_taken_back(self) -> None:
        """The button stands for ten seconds; afterwards the strike stands."""
        bench = self.bench().press("1").count(1, "blank").steps("sample").press("Space", "Space")
        page = bench.page
        page.clock.install()
        page.get_by_text("Something went wrong").click()
        for taken_back in (True, False):
            page.locator("#causes").get_by_role("button").first.click()
            undo = page.locator("#undo-for").get_by_role("button", name="Undo")
            expect(undo).to_be_visible()
            if taken_back:
                undo.click()
                expect(undo).to_be_hidden()
                expect(page.locator("#n")).to_have_text("2")
            else:
                page.clock.run_for(10_500)
                expect(undo).to_be_hidden()
        bench.all_sent()
        self.assertIn("first-1:2:plain:001:0", bench.digest()[0])

    def test_an_ended_test_is_taken_back(self) -> None:
        """Ended by a slip of the hand: undone, the run goes on and has no result."""
        bench = self.bench().press("1").count(1, "blank")
        bench.page.get_by_text("Something went wrong").click()
        bench.click("End test (not tested)")
        bench.page.locator("#undo-for").get_by_role("button", name="Undo").click()
        bench.count(7).count(8).all_sent()
        self.assertEqual(Result.objects.get(run_id=bench.run).current.finish, "done")

    def test_the_wrong_test_is_changed_before_anything_is_read(self) -> None:
        """Another kit for the same sample; once something was done the menu is gone."""
        bench = self.bench(method="nitrate-comparator")
        first = bench.run
        bench.page.get_by_role("button", name="Wrong test?").click()
        bench.page.get_by_role("button", name="Change to Chloride").first.click()
        bench.ready()
        run = Run.objects.exclude(pk=first).get()
        self.assertIn("chloride", run.version.method_id)
        self.assertEqual(Run.objects.get(pk=first).finish, CANCELLED)
        self.assertEqual(run.sample_id, Run.objects.get(pk=first).sample_id)
        bench.press("1")
        expect(bench.page.get_by_role("button", name="Wrong test?")).to_be_hidden()
