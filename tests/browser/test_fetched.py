"""What pages fetch once they are shown: the chart of a narrow page, what is in stock, and where the
uncertainty comes from."""

from datetime import timedelta

from playwright.sync_api import expect

from kessa.library.equipment import note_lot
from kessa.visits.water_events import note_event
from tests.browser.base import PHONE, BrowserTest, axe, overflow


class Fetched(BrowserTest):
    def test_the_chart_of_a_narrow_page(self) -> None:
        """Of its own size; an event is chosen on it, and it stays there."""
        room = self.room
        results = [room.finished(days_ago=days_ago) for days_ago in (6, 4, 2)]
        rain = results[1].sampled_at + timedelta(days=1)
        note_event(room.water, room.monitor, "rain", rain)
        page = self.sign_in(self.context(PHONE))
        page.goto(self.base + room.url(f"points/{room.point.pk}/"))
        chart = page.get_by_role("group", name="Chloride: 3 results over time")
        expect(chart).to_be_visible()
        self.assertLess(chart.bounding_box()["width"], PHONE["width"])
        chart.get_by_label("Before and after").click()
        expect(page.locator("#phone-chart .is-chosen")).to_be_visible()
        expect(page.get_by_text("too few values", exact=False).first).to_be_visible()
        self.assertEqual((axe(page), overflow(page)), ([], 0))

    def test_stock_and_uncertainty(self) -> None:
        """Today says which lot expires; a result's page, what made its range wide."""
        room = self.room
        result = room.finished()
        day = result.sampled_at.date() + timedelta(days=3)
        note_lot(room.programme, room.monitor, reagent="silver nitrate", number="L-2", expires=day)
        page = self.sign_in(self.context())
        page.goto(self.base + room.url("today/"))
        expect(page.get_by_role("link", name="silver nitrate L-2")).to_be_visible()
        self.assertEqual(axe(page), [])
        page.goto(self.base + room.url(f"results/{result.pk}/"))
        expect(page.get_by_role("heading", name="Where the uncertainty comes from")).to_be_visible()
        self.assertEqual(axe(page), [])
