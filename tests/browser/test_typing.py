"""A paper sheet of 30 readings, typed by keyboard alone and pasted: how many keys it takes."""

from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import expect

from kessa.library.services import in_use
from kessa.results.models import Result
from tests.browser.base import BrowserTest, axe, overflow

METHODS = ("chloride-drops-15ml", "conductivity-meter", "ph-tablets", "thermometer", "disc-on-rope")
READINGS = ("7 8", "212 µS/cm", "7.5", "5.4", "1.2/1.2")
LINES = 6
KEYS_A_SECOND = 4


class Typing(BrowserTest):
    """Six samples of five tests: thirty readings."""

    def setUp(self) -> None:
        super().setUp()
        for method in METHODS:
            in_use(self.room.programme, method, self.room.monitor)
        self.page = self.sign_in(self.context())
        query = "&".join(f"method={one}" for one in METHODS)
        self.page.goto(self.base + self.room.url(f"entry/sheet/?{query}"))
        self.keys = 0

    def type(self, text: str) -> None:
        self.keys += len(text)
        self.page.keyboard.type(text)

    def press(self, key: str) -> None:
        self.keys += 1
        self.page.keyboard.press(key)

    def test_by_keyboard(self) -> None:
        """Under three minutes at four keys a second; values show while it is typed."""
        page, yesterday = self.page, timezone.localdate() - timedelta(days=1)
        self.assertEqual((axe(page), overflow(page)), ([], 0))
        page.get_by_label("Day").first.focus()
        for line in range(LINES):
            if line:
                page.get_by_label("Day").nth(line).focus()
                self.keys += 1
            else:
                page.get_by_label("Day").first.fill(yesterday.isoformat())
                self.keys += 10
            self.press("Tab")
            self.type(f"{9 + line}:40")
            self.press("Tab")
            self.type("b")
            for reading in READINGS:
                self.press("Tab")
                self.type(reading)
            if not line:
                said = page.locator(".cell-said").first
                expect(said).to_contain_text("58 mg/L as Cl")
        self.press("Enter")
        page.get_by_role("button", name="Save the sheet").click()
        expect(page.get_by_text("30 readings saved")).to_be_visible()
        done = Result.objects.filter(current__number__isnull=False)
        self.assertEqual(done.count(), 30)
        self.assertLess(self.keys / KEYS_A_SECOND, 180)

    def test_pasted(self) -> None:
        """Under one minute: copy, paste, confirm, save."""
        page = self.page
        heads = "Date\tTime\tSite\tChloride\tConductivity\tpH\tTemperature\tClarity\n"
        lines = [
            "\t".join(["2026-11-20", f"{9 + line}:40", "at the ford", *READINGS])
            for line in range(LINES)
        ]
        page.get_by_role("link", name="Paste a table").click()
        page.get_by_label("Copy the lines").fill(heads + "\n".join(lines))
        self.keys += 2
        page.get_by_role("button", name="Read the table").click()
        self.assertEqual((axe(page), overflow(page)), ([], 0))
        page.get_by_role("button", name="Put 6 lines into the sheet").click()
        page.get_by_role("button", name="Save the sheet").click()
        self.keys += 3
        expect(page.get_by_text("30 readings saved")).to_be_visible()
        done = Result.objects.filter(current__number__isnull=False)
        self.assertEqual(done.count(), 30)
        self.assertLess(self.keys / KEYS_A_SECOND, 60)
