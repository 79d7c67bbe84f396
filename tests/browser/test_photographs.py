"""A colour photographed at the bench, with and without a network, and read later by another."""

from playwright.sync_api import Page, expect

from kessa.photos.models import Photograph
from kessa.results.models import Result
from kessa.runs.models import PhotoReading
from kessa.visits.models import VisitEvent
from tests.browser.base import PHONE, BenchDriver, BrowserTest, axe, overflow
from tests.builders.photographs import NITRATE, picture

FILE = {"name": "colour.jpg", "mimeType": "image/jpeg", "buffer": picture(1200, 900)}


class Photographs(BrowserTest):
    def at_the_colour(self) -> BenchDriver:
        """The monitor's phone, at the step where the colour is read."""
        page = self.sign_in(self.context(PHONE))
        page.clock.install()
        bench = self.bench(page, NITRATE).go(until="read")
        self.assertEqual(bench.spot, "read")
        return bench

    def photograph(self, bench: BenchDriver) -> Page:
        bench.page.get_by_label("Photograph it").set_input_files(FILE)
        expect(bench.page.get_by_alt_text("The photograph you took")).to_be_visible()
        return bench.page

    def test_read_later_by_somebody_else(self) -> None:
        """Saved at the bench, sent, read on another screen; this one then shows the value."""
        bench = self.at_the_colour()
        page = self.photograph(bench)
        self.assertEqual((axe(page), overflow(page)), ([], 0))
        page.get_by_label("A second person reads it too").check()
        bench.click("Save, read it later")
        expect(bench.title).to_have_text("Photographed, to be read later")
        self.assertEqual((axe(page), overflow(page)), ([], 0))
        bench.all_sent()
        kept = Photograph.objects.get()
        self.assertEqual((kept.width, kept.height), (1200, 900))
        other = self.sign_in(self.context(), self.room.people["reviewer"])
        other.goto(self.base + self.room.url("today/"))
        other.get_by_role("link", name="1 photograph to read").click()
        self.assertEqual((axe(other), overflow(other)), ([], 0))
        other.get_by_role("link", name="Read", exact=True).click()
        self.assertEqual((axe(other), overflow(other)), ([], 0))
        shown = other.get_by_role("img").first
        self.assertEqual(shown.evaluate("one => one.naturalWidth"), 1200)
        other.get_by_label("Reading").select_option(index=4)
        other.get_by_role("button", name="Save reading").click()
        expect(other.get_by_text("You read it first")).to_be_visible()
        result = Result.objects.get(run=bench.run)
        self.assertIsNotNone(result.current.number)
        page.clock.run_for(11_000)
        expect(page.locator(".r-figure")).to_have_text(result.current.figure)
        self.assertEqual(bench.digest()[0].split("|")[0], "finished//done")
        self.assertEqual(PhotoReading.objects.get().wanted, "second")

    def test_beside_a_reading(self) -> None:
        """Kept with the reading that is made now; looked at once more and discarded before."""
        bench = self.at_the_colour()
        page = self.photograph(bench)
        bench.click("Discard")
        self.photograph(bench)
        bench.click("Save and read it now")
        expect(page.get_by_text("Photograph saved. Now save your reading.")).to_be_visible()
        page.locator("#reading-place").select_option(index=4)
        bench.take().all_sent()
        result = Result.objects.get(run=bench.run)
        self.assertEqual(result.current.finish, "done")
        page.goto(self.base + self.room.url(f"results/{result.pk}/"))
        expect(page.get_by_alt_text("Photograph 1 of what was read")).to_be_visible()
        self.assertEqual((axe(page), overflow(page)), ([], 0))
        page.get_by_role("button", name="Ask for a second reading").click()
        expect(page.get_by_text("Waits for a second reading")).to_be_visible()

    def test_without_a_network(self) -> None:
        """Kept on the phone with its act, through a reload, until there is a network again."""
        bench = self.at_the_colour()
        self.photograph(bench)
        bench.page.context.set_offline(True)
        bench.click("Save, read it later")
        expect(bench.title).to_have_text("Photographed, to be read later")
        self.assertFalse(Photograph.objects.exists())
        bench.page.context.set_offline(False)
        bench.page.reload()
        bench.ready()
        bench.page.clock.run_for(11_000)
        bench.all_sent()
        self.assertEqual(Photograph.objects.get().key, PhotoReading.objects.get().photo)
        left = bench.page.evaluate("indexedDB.databases().then((all) => all.length)")
        self.assertGreater(left, 0)

    def test_somebody_else_reads_at_the_bench(self) -> None:
        """Named on the bench and in the evidence."""
        bench = self.at_the_colour()
        page = bench.page
        page.get_by_text("Who reads", exact=True).click()
        page.get_by_label("Who reads the colour or the display").fill("Wren")
        page.locator("#reader-form").get_by_role("button", name="Save").click()
        expect(page.get_by_text("· Wren, not who tests")).to_be_visible()
        page.locator("#reading-place").select_option(index=4)
        bench.take().all_sent()
        result = Result.objects.get(run=bench.run)
        page.goto(self.base + self.room.url(f"results/{result.pk}/"))
        expect(page.get_by_role("cell").filter(has_text="read by Wren")).to_be_visible()

    def test_what_is_no_picture(self) -> None:
        """Said at once; the reading is made by eye."""
        bench = self.at_the_colour()
        wrong = {"name": "a.txt", "mimeType": "text/plain", "buffer": b"no picture"}
        bench.page.get_by_label("Photograph it").set_input_files(wrong)
        expect(bench.page.get_by_text("This device could not keep the photograph")).to_be_visible()

    def test_what_is_seen_on_a_visit(self) -> None:
        """Photographed on the visit's page with what it shows; on its page and report."""
        visit = self.room.new_visit("chloride-drops-15ml", "chloride-drops-5ml")
        page = self.sign_in(self.context(PHONE))
        page.goto(self.base + self.room.url(f"visits/{visit.pk}/"))
        page.get_by_label("Photograph what you see").set_input_files(FILE)
        page.get_by_label("What it shows").fill("foam under the weir")
        self.assertEqual((axe(page), overflow(page)), ([], 0))
        page.get_by_role("button", name="Save photograph").click()
        expect(page.get_by_alt_text("foam under the weir")).to_be_visible(timeout=15_000)
        self.assertEqual(VisitEvent.objects.get(kind="photo").by, self.room.monitor)
        page.goto(self.base + self.room.url(f"visits/{visit.pk}/report/"))
        expect(page.get_by_alt_text("foam under the weir")).to_be_visible()
        self.assertEqual((axe(page), overflow(page)), ([], 0))
