"""A lot found to read high, corrected by a reviewer; a lot chosen and scanned at the bench."""

from playwright.sync_api import expect

from kessa.library.equipment import note_lot
from kessa.library.models import Lot
from kessa.results.models import Result
from tests.browser.base import PHONE, BrowserTest, axe, overflow
from tests.builders.jobs import run_jobs

CAMERA = """
const canvas = document.createElement("canvas");
setInterval(() => canvas.getContext("2d").fillRect(0, 0, 9, 9), 50);
Object.defineProperty(navigator, "mediaDevices", {
  value: { getUserMedia: async () => canvas.captureStream(5) },
});
globalThis.looks = 0;
globalThis.BarcodeDetector = class {
  async detect() {
    globalThis.looks += 1;
    return globalThis.looks < 3 ? [] : [{ rawValue: " LX 204 " }];
  }
};"""
"""What this machine has none of: a camera, and a browser that reads codes, at the third look."""


class Lots(BrowserTest):
    def test_a_lot_that_reads_high(self) -> None:
        """The reviewer enters 125 %, sees what would change, confirms; the figures follow."""
        room, reviewer = self.room, self.room.people["reviewer"]
        result = room.finished((7, 8))
        lot = Lot.objects.get(programme=room.programme)
        page = self.sign_in(self.context(), reviewer)
        page.goto(self.base + room.url(f"lots/{lot.pk}/"))
        page.get_by_role("link", name="Correct", exact=True).click()
        page.get_by_role("button", name="It reads high or low").click()
        page.get_by_label("It finds, % of a standard").fill("125")
        page.get_by_label("Reason").fill("a standard of 100 mg/L read 125")
        page.get_by_role("button", name="Save correction").click()
        expect(page.get_by_role("heading", name="What would change")).to_be_visible()
        expect(page.get_by_role("cell", name=result.current.value.text)).to_be_visible()
        then = f"{0.8 * result.current.number:.0f} mg/L as Cl"
        expect(page.get_by_role("cell", name=then)).to_be_visible()
        self.assertEqual(axe(page), [])
        page.set_viewport_size(PHONE)
        self.assertEqual(overflow(page), 0)
        self.assertEqual(Result.objects.get(pk=result.pk).current_id, result.current_id)
        page.get_by_role("button", name="Correct the lot and recalculate").click()
        expect(page.get_by_text("are being recalculated")).to_be_visible()
        run_jobs()
        self.assertAlmostEqual(
            Result.objects.get(pk=result.pk).evaluation.number, 0.8 * result.current.number
        )

    def test_a_lot_is_scanned_at_the_bench(self) -> None:
        """The code is read into the field; the test then uses that lot."""
        room = self.room
        note_lot(room.programme, room.monitor, reagent="silver nitrate", number="LX 204")
        note_lot(room.programme, room.monitor, reagent="silver nitrate", number="LX 205")
        context = self.context(PHONE)
        context.add_init_script(CAMERA)
        bench = self.bench(self.sign_in(context))
        page = bench.page
        page.locator("summary", has_text="Lots").click()
        page.get_by_role("button", name="Scan").first.click()
        field = page.get_by_label("Silver nitrate")
        expect(field).to_have_value("LX 204")
        self.assertEqual(axe(page), [])
        page.get_by_role("button", name="Use this lot").first.click()
        bench.ready()
        expect(page.locator("summary", has_text="silver nitrate LX 204")).to_be_visible()

    def test_without_a_camera_it_is_typed(self) -> None:
        """No button promises what the browser cannot do; a number that is not recorded is added."""
        bench = self.bench()
        page = bench.page
        page.locator("summary", has_text="Lots").click()
        expect(page.get_by_role("button", name="Scan")).to_have_count(0)
        page.get_by_label("Silver nitrate").fill("N-7")
        page.get_by_role("button", name="Use this lot").first.click()
        page.get_by_role("link", name="Add this lot").click()
        expect(page.get_by_label("Lot number on the pack")).to_have_value("N-7")
        page.get_by_role("button", name="Add lot").click()
        bench.ready()
        expect(page.locator("summary", has_text="silver nitrate N-7")).to_be_visible()
