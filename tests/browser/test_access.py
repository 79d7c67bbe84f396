"""axe-core on every page, in both themes and both sizes; nothing is wider than its window."""

from django.test import override_settings
from playwright.sync_api import expect

from kessa.visits.services import begin
from tests.browser.base import PHONE, WIDE, BenchDriver, BrowserTest, axe, overflow


@override_settings(ROOT_URLCONF="tests.browser.urls")
class Access(BrowserTest):
    def pages(self) -> list[str]:
        result = self.room.finished((7, 12, 8))
        for day in range(9):
            self.room.finished(days_ago=day + 1)
        self.room.finished((7, 12, 17), days_ago=2)
        sample = begin(
            self.room.programme, self.room.monitor, self.room.point, "chloride-drops-15ml"
        )
        run = self.room.new_run()
        paths = [
            "today/", "waters/", f"points/{self.room.point.pk}/", f"points/{self.room.other.pk}/",
            f"samples/{sample.pk}/safety/", f"samples/{sample.pk}/context/",
            f"samples/{sample.pk}/sample/", "bench/", f"bench/{run.pk}/", "log/",
            "log/?sign=beyond",
            f"results/{result.pk}/", "library/", "library/chloride-drops-15ml/1/", "results/0/",
        ]  # fmt: skip
        return [*(self.room.url(path) for path in paths), "/style/"]

    def test_every_page_in_both_themes_and_sizes(self) -> None:
        """No finding, no sideways scrolling, a title and one heading of the first rank."""
        paths = self.pages()
        for size, theme in ((WIDE, "day"), (PHONE, "dark"), (WIDE, "dark"), (PHONE, "day")):
            context = self.context(size)
            context.add_cookies([{"name": "theme", "value": theme, "url": self.base}])
            page = self.sign_in(context)
            for path in paths:
                page.goto(self.base + path)
                with self.subTest(path=path, theme=theme, width=size["width"]):
                    self.assertEqual(axe(page), [])
                    self.assertLessEqual(overflow(page), 0)
                    expect(page.locator("h1")).to_have_count(1)
                    self.assertRegex(page.title(), ".+ · Kessa")
            context.close()

    def test_the_sign_in_page(self) -> None:
        """Signed out, in both themes."""
        for theme in ("day", "dark"):
            context = self.context()
            context.add_cookies([{"name": "theme", "value": theme, "url": self.base}])
            page = self.new_page(context)
            page.goto(self.base + "/sign-in/")
            self.assertEqual(axe(page), [])

    def test_every_spot_of_the_bench(self) -> None:
        """Counting, reading, failed blank, finished: each without a finding."""
        for size, theme in ((WIDE, "day"), (PHONE, "dark")):
            context = self.context(size)
            context.add_cookies([{"name": "theme", "value": theme, "url": self.base}])
            bench: BenchDriver = self.bench(self.sign_in(context))
            for keys in (
                ["1"], ["n", "n", "n", "1", "Space", "Space", "Space"], ["e"], ["n"],
                ["n", "n", "n", "n", "1", "Space", "e", "n"],
                ["n", "n", "n", "n", "1", *["Space"] * 7, "e", "n"],
                ["n", "n", "n", "n", "1", *["Space"] * 8, "e", "n"],
            ):  # fmt: skip
                bench.press(*keys)
                with self.subTest(title=bench.title.inner_text(), theme=theme):
                    self.assertEqual(axe(bench.page), [])
                    self.assertLessEqual(overflow(bench.page), 0)

    def test_the_theme_stays(self) -> None:
        """One switch; the next page has it from the start."""
        page = self.sign_in(self.context())
        page.goto(self.base + self.room.url("today/"))
        switch = page.get_by_role("button", name="Theme")
        switch.click()
        self.assertEqual(page.evaluate("document.documentElement.dataset.theme"), "sunlight")
        switch.click()
        page.goto(self.base + self.room.url("log/"))
        self.assertEqual(page.evaluate("document.documentElement.dataset.theme"), "dark")
