"""A browser that refuses to save: what the page shows is what is kept, and it says so."""

from playwright.sync_api import Page, expect

from kessa.flows.evaluating import state_of
from kessa.runs.models import Event, Run
from tests.browser.base import BenchDriver, BrowserTest

REFUSE = """
window.refusing = 0;
const put = IDBObjectStore.prototype.put;
IDBObjectStore.prototype.put = function (...given) {
  if (this.name === "acts" && window.refusing > 0) {
    window.refusing -= 1;
    throw new DOMException("full", "QuotaExceededError");
  }
  return put.apply(this, given);
};
"""


class Refusing(BrowserTest):
    worker = True

    def open(self) -> BenchDriver:
        context = self.context()
        context.add_init_script(REFUSE)
        return self.bench(self.sign_in(context))

    def refuse(self, page: Page, times: int) -> None:
        page.evaluate("times => { window.refusing = times; }", times)

    def test_online_acts_go_straight_to_the_server(self) -> None:
        """Twenty refused writes: nothing lost, nothing doubled, and it stays said."""
        bench = self.open()
        bench.press("1").count(1, "blank").steps("sample").all_sent()
        self.refuse(bench.page, 20)
        bench.press(*["Space"] * 20)
        expect(bench.number).to_have_text("20")
        expect(bench.page.locator("#not-kept")).to_contain_text("goes straight to the server")
        expect(bench.page.locator("#sent")).to_have_text("Sent; not saved in this browser")
        drops = Event.objects.filter(run_id=bench.run, act="drop")
        self.assertEqual(drops.count(), 21)
        bench.press("Space")
        expect(bench.page.locator("#sent")).to_have_text("Sent; not saved in this browser")
        expect(bench.page.locator("#not-kept")).to_be_visible()
        self.assertEqual(state_of(Run.objects.get(pk=bench.run)).current.count, 21)

    def test_offline_the_count_is_the_one_that_is_kept(self) -> None:
        """The seventh drop is refused: the page says so at once and shows six; then it goes on."""
        bench = self.open()
        page = bench.page
        bench.press("1").count(1, "blank").steps("sample").press(*["Space"] * 6).all_sent()
        page.context.set_offline(True)
        self.refuse(page, 1)
        bench.press("Space")
        expect(page.locator("#not-kept")).to_contain_text("It does not count")
        expect(bench.number).to_have_text("6")
        bench.press("Space")
        expect(bench.number).to_have_text("7")
        expect(page.locator("#not-kept")).to_be_visible()
        page.context.set_offline(False)
        expect(page.locator("#sent")).to_contain_text("not saved in this browser", timeout=20000)
        expect(bench.number).to_have_text("7")
        self.assertEqual(state_of(Run.objects.get(pk=bench.run)).current.count, 7)
        expect(page.locator("#mismatch")).to_be_hidden()

    def test_a_browser_without_storage_still_counts(self) -> None:
        """The database of the browser cannot be opened at all."""
        context = self.context()
        context.add_init_script("indexedDB.open = () => { throw new Error('refused'); };")
        page = self.sign_in(context)
        bench = self.bench(page)
        bench.press("1")
        expect(page.locator("#not-kept")).to_contain_text("goes straight to the server")
        bench.steps("blank").press("Space")
        expect(page.locator("#sent")).to_have_text("Sent; not saved in this browser")
        self.assertEqual(Event.objects.filter(run_id=bench.run, act="drop").count(), 1)

    def test_it_says_where_acts_are_kept(self) -> None:
        bench = self.open()
        expect(bench.page.locator("#kept-where")).to_contain_text("saved in this browser")
