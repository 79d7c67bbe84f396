"""The first thread, as a newcomer does it: with the mouse, by keyboard alone, and with a thumb."""

import csv
import io
import re

from playwright.sync_api import expect

from tests.browser.base import PHONE, BenchDriver, BrowserTest, overflow
from tests.builders.people import PASSWORD

FOCUSED = """(() => {
  const e = document.activeElement;
  return (e.innerText || e.closest('label')?.innerText || '').trim();
})()"""


class Newcomer(BrowserTest):
    worker = True

    def test_from_sign_in_to_csv_with_the_mouse(self) -> None:
        """Sign in, point, two taps to the test, blank 2, 7 and 8 drops: 58 mg/L, in log and CSV."""
        page = self.new_page(self.context(accept_downloads=True, reduced_motion="no-preference"))
        page.goto(self.base)
        page.get_by_label("Name").fill(self.room.monitor.username)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("link", name="Beck, at the ford").click()
        page.get_by_role("button", name="Start test").click()
        page.get_by_role("button", name=re.compile("^Chloride, 15 mL")).click()
        page.get_by_role("button", name="Yes, it is safe").click()
        page.get_by_label("cloudy", exact=True).first.check()
        page.get_by_label("heavy rain", exact=True).first.check()
        page.get_by_role("button", name="Next: take the sample").click()
        page.get_by_label("Water temperature, °C").fill("6")
        page.get_by_role("button", name=re.compile("Save sample")).click()

        bench = BenchDriver(page)
        bench.click("Between 6.5 and 10")
        for who, drops in (("blank", 2), ("sample", 7), ("sample", 8)):
            for _ in range(3 if who == "blank" else 4):
                bench.click("Done")
            page.get_by_role("button", name=re.compile("^Straw yellow")).click()
            for _ in range(drops):
                bench.click("Add drop")
            expect(bench.number).to_have_text(str(drops))
            bench.click("End count").click("Save ")
        expect(bench.title).to_have_text("Done")
        expect(page.locator(".r-figure")).to_have_text("58")
        expect(page.locator(".r-working")).to_have_text(
            "7, 8 drops: (mean 7.5 − ½) × 8.3 = 58 mg/L as Cl"
        )
        expect(page.locator(".r-sign")).to_contain_text("within")
        bench.all_sent()

        page.get_by_role("link", name="Open the result in the log").click()
        expect(page.get_by_role("heading", name="Chloride, Beck, at the ford")).to_be_visible()
        expect(page.get_by_text("95 % range: 49–63")).to_be_visible()
        page.get_by_role("navigation", name="Main", exact=True).get_by_role(
            "link", name="Log"
        ).click()
        expect(page.get_by_role("row", name=re.compile("Chloride 58"))).to_be_visible()
        with page.expect_download() as download:
            page.get_by_role("link", name="Download these as CSV").click()
        text = download.value.path().read_text("utf-8")
        row = next(csv.DictReader(io.StringIO(text, newline="")))
        self.assertEqual(
            (row["value"], row["unit"], row["basis"], row["blank_read"]), ("58", "mg/L", "Cl", "2")
        )

    def test_by_keyboard_alone(self) -> None:
        """From Today to the result without a mouse."""
        page = self.sign_in(self.context())
        page.goto(self.base + self.room.url("today/"))
        self.tab_to(page, "Start test")
        page.keyboard.press("Enter")
        self.tab_to(page, "Chloride, 15 mL")
        page.keyboard.press("Enter")
        page.wait_for_url("**/safety/")
        self.tab_to(page, "Yes, it is safe")
        page.keyboard.press("Enter")
        page.wait_for_url("**/context/")
        page.locator("input[name=weather_now]").first.focus()
        page.keyboard.press("Space")
        self.tab_to(page, "dry")
        page.keyboard.press("Space")
        self.tab_to(page, "Next: take the sample")
        page.keyboard.press("Enter")
        page.wait_for_url("**/sample/")
        self.tab_to(page, "Save sample")
        page.keyboard.press("Enter")
        bench = BenchDriver(page).through(7, 8, blank=2)
        expect(page.locator(".r-figure")).to_have_text("58")
        bench.all_sent()
        self.tab_to(page, "Open the result")
        page.keyboard.press("Enter")
        page.wait_for_url("**/results/*/")

    def tab_to(self, page, name: str) -> None:
        """Tab until what has the focus begins with *name*."""
        for _ in range(60):
            page.keyboard.press("Tab")
            focused = page.evaluate(FOCUSED)
            if focused.startswith(name):
                return
        self.fail(f"{name} cannot be reached by Tab")

    def test_with_one_thumb(self) -> None:
        """At 390×844 nothing is wider than the screen, and every target is large and in reach."""
        page = self.sign_in(self.context(PHONE, has_touch=True, is_mobile=True))
        page.goto(self.base + self.room.url(f"points/{self.room.point.pk}/"))
        page.get_by_role("button", name="Start test").tap()
        page.get_by_role("button", name=re.compile("^Chloride, 15 mL")).tap()
        page.get_by_role("button", name="Yes, it is safe").tap()
        page.get_by_label("clear", exact=True).tap()
        page.get_by_label("dry", exact=True).tap()
        page.get_by_role("button", name="Next: take the sample").tap()
        page.get_by_role("button", name=re.compile("Save sample")).tap()
        bench = BenchDriver(page)
        page.get_by_role("button", name=re.compile("Between 6.5 and 10")).tap()
        for who, drops in (("blank", 2), ("sample", 7), ("sample", 8)):
            for _ in range(3 if who == "blank" else 4):
                page.get_by_role("button", name="Done").tap()
            page.get_by_role("button", name=re.compile("^Straw yellow")).tap()
            add = page.get_by_role("button", name=re.compile("Add drop"))
            for name in ("Add drop", "Undo", "End count"):
                box = page.get_by_role("button", name=re.compile(name)).bounding_box()
                self.assertGreaterEqual(box["height"], 56, name)
                self.assertLess(box["y"] + box["height"], 844 - 56, name)
                self.assertGreater(box["y"], 300, name)
            for _ in range(drops):
                add.tap()
            self.assertEqual(overflow(page), 0)
            page.get_by_role("button", name=re.compile("End count")).tap()
            page.get_by_role("button", name=re.compile("Save ")).tap()
        expect(page.locator(".r-figure")).to_have_text("58")
        bench.all_sent()
