"""Everything but the bench with scripts switched off."""

import re

from playwright.sync_api import Page, expect

from kessa.runs.models import Run
from tests.browser.base import BrowserTest


class WithoutScripts(BrowserTest):
    def page_of(self, role: str) -> Page:
        """A page of somebody in this role whose browser runs no script."""
        person = self.room.people[role]
        context = self.context(java_script_enabled=False)
        return self.sign_in(context, person)

    def test_from_a_point_to_the_bench(self) -> None:
        """The menu leads to a page of its own; every step is a form."""
        page = self.page_of("monitor")
        page.goto(self.base + self.room.url(f"points/{self.room.point.pk}/"))
        page.get_by_role("button", name="Start test").click()
        page.get_by_role("link", name="Choose a test").click()
        page.get_by_role("button", name=re.compile("^Chloride, 15 mL")).click()
        page.get_by_role("button", name="Yes, it is safe").click()
        page.get_by_role("button", name="Next: take the sample").click()
        expect(page.get_by_text("Choose the weather").first).to_be_visible()
        page.get_by_label("clear", exact=True).check()
        page.get_by_label("dry", exact=True).check()
        page.get_by_role("button", name="Next: take the sample").click()
        page.get_by_role("button", name="Save sample and start test").click()
        self.assertIn(str(Run.objects.get().pk), page.url)

    def test_finding_results(self) -> None:
        """Filters of the log, search, a point's parameters, the library."""
        self.room.finished()
        page = self.page_of("monitor")
        page.goto(self.base + self.room.url("log/"))
        page.get_by_label("Verdict").select_option("◆ outside limit")
        page.get_by_role("button", name="Show results").click()
        expect(page.get_by_text("No results match.")).to_be_visible()
        page.get_by_label("Verdict").select_option("● within limit")
        page.get_by_role("button", name="Show results").click()
        expect(page.get_by_role("row", name=re.compile("Chloride"))).to_be_visible()
        page.goto(self.base + self.room.url("search/"))
        page.get_by_label("Point, day, value").fill("ford")
        page.get_by_label("Point, day, value").press("Enter")
        expect(page.get_by_role("link", name=re.compile("at the ford")).first).to_be_visible()
        page.goto(self.base + self.room.url("library/"))
        page.get_by_label("Find a method").fill("nitrate")
        page.get_by_label("Find a method").press("Enter")
        expect(page.get_by_text("Nitrate by colour comparator")).to_be_visible()
        expect(page.get_by_text("Chloride by drop count, 15 mL")).to_have_count(0)

    def test_correcting_and_reviewing(self) -> None:
        """A reading is corrected on a page of its own; a decision leads to the next."""
        result = self.room.finished((7, 8))
        page = self.page_of("monitor")
        page.goto(self.base + self.room.url(f"results/{result.pk}/"))
        page.locator("summary").filter(has_text="Correct").click()
        page.get_by_role("link", name="A reading").click()
        page.get_by_role("radio", name=re.compile("^first: 7")).check()
        page.get_by_label("Drops counted").fill("8")
        page.get_by_role("button", name="Save correction").click()
        expect(page.get_by_text("Enter a reason")).to_be_visible()
        page.get_by_label("Reason").fill("misread")
        page.get_by_role("button", name="Save correction").click()
        expect(page.locator(".figure.huge")).to_have_text("62")
        reviewer = self.page_of("reviewer")
        reviewer.goto(self.base + self.room.url("review/"))
        reviewer.get_by_role("button", name="Accept").click()
        expect(reviewer.get_by_text("No results to review.")).to_be_visible()
