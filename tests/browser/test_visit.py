"""A visit of several tests: by one thumb to its first, one in the wait of another, two devices."""

import re

from playwright.sync_api import Page, expect

from tests.browser.base import PHONE, BenchDriver, BrowserTest, axe, overflow

TESTS = (
    "chloride-drops-15ml", "phosphate-strip", "nitrate-tablets", "ph-strips", "conductivity-meter",
    "hardness-strip",
)  # fmt: skip


class Visits(BrowserTest):
    def fine(self, page: Page) -> None:
        """Nothing that axe finds, and nothing wider than its window."""
        self.assertEqual((axe(page), overflow(page)), ([], 0))

    def visit(self, page: Page, *methods: str) -> str:
        """The page of a visit with these tests; its address."""
        made = self.room.new_visit(*methods)
        page.goto(self.base + self.room.url(f"visits/{made.pk}/"))
        return page.url

    def test_by_one_thumb_to_the_first_test(self) -> None:
        """The same six tests as last time: at most ten taps before the first of them."""
        page = self.sign_in(self.context(PHONE))
        self.room.new_visit(*TESTS)
        page.goto(self.base + self.room.url(f"points/{self.room.point.pk}/"))
        taps = 0

        def tap(role: str, name: str | re.Pattern[str]) -> None:
            nonlocal taps
            taps += 1
            page.get_by_role(role, name=name).first.click()

        page.locator("summary").filter(has_text="Start test").click()
        taps += 1
        tap("link", "Several tests from one sample")
        self.fine(page)
        expect(page.get_by_role("checkbox", checked=True)).to_have_count(len(TESTS))
        tap("button", "Start")
        tap("button", "Yes, it is safe")
        tap("radio", "rain")
        page.get_by_role("radio", name="dry").check()
        taps += 1
        tap("button", "Next: take the sample")
        tap("button", "Save sample and start 6 tests")
        self.fine(page)
        tap("link", re.compile("^Go to"))
        BenchDriver(page).ready()
        self.assertLessEqual(taps, 10)

    def test_one_test_in_the_wait_of_another(self) -> None:
        """The strip waits: the bench sends the person to the meter, whose bench counts the strip's
        clock. A result stands on the visit's page."""
        page = self.sign_in(self.context())
        visit = self.visit(page, TESTS[0], TESTS[1], "conductivity-meter")
        page.get_by_role("link", name="Phosphate, strip").last.click()
        bench = BenchDriver(page).go(until="wait")
        bench.all_sent()
        chip = page.get_by_role("navigation", name="Visit")
        chip.get_by_role("link", name="Now: Conductivity, meter").click()
        BenchDriver(page).ready()
        expect(page.locator("#eyebrow")).to_contain_text("Conductivity")
        clock = page.get_by_role("navigation", name="Visit").get_by_role("timer")
        expect(clock).to_have_text(re.compile(r"^\d:\d\d$"))
        self.fine(page)
        page.goto(visit)
        page.get_by_role("link", name="Chloride, 15 mL").last.click()
        BenchDriver(page).through(7, 8).all_sent()
        page.goto(visit)
        row = page.get_by_role("listitem").filter(has_text="Chloride, 15 mL")
        expect(row).to_contain_text("58 mg/L")
        expect(page.get_by_text("1 of 3 tests done")).to_be_visible()
        expect(page.get_by_role("heading", level=2).first).not_to_have_text("All tests are done")
        self.fine(page)

    def test_two_devices_on_one_visit(self) -> None:
        """What one does, the other's page of the visit shows without being touched."""
        page = self.sign_in(self.context())
        address = self.visit(page, *TESTS[:2])
        other = self.sign_in(self.context(PHONE), self.room.people["reviewer"])
        other.goto(address)
        expect(other.get_by_text("No clock is running.")).to_be_visible()
        page.get_by_role("link", name="Phosphate, strip").last.click()
        BenchDriver(page).go(until="wait").all_sent()
        expect(other.get_by_role("timer")).to_be_visible()
        self.fine(other)
