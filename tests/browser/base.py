"""The browser under test, and a person at the bench who works by role and label."""

import re
from pathlib import Path
from typing import Any

from django.test import Client, LiveServerTestCase
from playwright.sync_api import BrowserContext, Page, expect, sync_playwright

from kessa.accounts.models import Person
from tests.browser.inflight import wait_until_idle
from tests.builders.people import Room

ARGUMENTS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip
WIDE = {"width": 1280, "height": 800}
PHONE = {"width": 390, "height": 844}
AXE = Path(__file__).parent / "vendor" / "axe.min.js"


class BrowserTest(LiveServerTestCase):
    """One Chromium a class, one context a test; any error on a page fails the test."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        cls.addClassCleanup(cls.playwright.stop)
        cls.chromium = cls.playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=ARGUMENTS
        )
        cls.addClassCleanup(cls.chromium.close)

    def setUp(self) -> None:
        self.addCleanup(wait_until_idle)
        self.room = Room()
        self.base = self.live_server_url
        self.page_errors: list[str] = []

    def context(self, size: dict[str, int] = WIDE, **more: Any) -> BrowserContext:
        context = self.chromium.new_context(viewport=size, **more)
        self.addCleanup(context.close)
        return context

    def sign_in(self, context: BrowserContext, person: Person | None = None) -> Page:
        """A page of somebody who is signed in already (one test signs in by the form)."""
        client = Client()
        client.force_login(person or self.room.monitor)
        cookie = client.cookies["sessionid"].value
        context.add_cookies([{"name": "sessionid", "value": cookie, "url": self.base}])
        return self.new_page(context)

    def new_page(self, context: BrowserContext) -> Page:
        page = context.new_page()
        page.set_default_timeout(10_000)
        page.set_default_navigation_timeout(30_000)
        page.on("pageerror", lambda error: self.page_errors.append(str(error)))
        return page

    def tearDown(self) -> None:
        self.assertEqual(self.page_errors, [])

    def bench(self, page: Page | None = None) -> "BenchDriver":
        """A bench with a fresh run."""
        page = page or self.sign_in(self.context())
        run = self.room.new_run()
        page.goto(self.base + self.room.url(f"bench/{run.pk}/"))
        return BenchDriver(page, str(run.pk))


class BenchDriver:
    """A person at the bench, by keyboard or by buttons."""

    def __init__(self, page: Page, run: str = "", address: str = "") -> None:
        self.page, self.run = page, run
        if address:
            page.goto(address)
        self.ready()

    def ready(self) -> "BenchDriver":
        expect(self.page.locator("#main[data-ready]")).to_be_visible()
        return self

    def press(self, *keys: str) -> "BenchDriver":
        for key in keys:
            self.page.keyboard.press(key)
        return self

    def click(self, name: str) -> "BenchDriver":
        self.page.get_by_role("button", name=re.compile(re.escape(name))).click()
        return self

    def steps(self, who: str) -> "BenchDriver":
        """Every step up to the count: three or four ticks, then the start colour."""
        return self.press(*(["n"] * (3 if who == "blank" else 4)), "1")

    def count(self, drops: int, who: str = "sample", how: tuple[str, ...] = ()) -> "BenchDriver":
        """A whole determination by keyboard."""
        return self.steps(who).press(*["Space"] * drops, "e", *how, "n")

    def through(self, *samples: int, blank: int = 1) -> "BenchDriver":
        """pH, blank and these counts."""
        self.press("1").count(blank, "blank")
        for drops in samples:
            self.count(drops)
        return self

    @property
    def title(self):
        return self.page.locator("h2#title")

    @property
    def number(self):
        return self.page.locator("output#n")

    def digest(self) -> list[str]:
        return self.page.evaluate("document.getElementById('main').kessa.digest()")

    def all_sent(self) -> "BenchDriver":
        expect(self.page.locator("#sent")).to_have_text("All sent", timeout=15_000)
        return self

    def tape(self) -> list[str]:
        return [" ".join(text.split()) for text in self.page.locator("#tape li").all_inner_texts()]


TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]


def axe(page: Page) -> list[str]:
    """What axe-core finds wrong on the page (WCAG 2.2 AA)."""
    page.evaluate(AXE.read_text("utf-8"))
    found = page.evaluate("async (tags) => (await axe.run({runOnly: tags})).violations", TAGS)
    return [f"{one['id']}: {_where(one['nodes'])}" for one in found]


def _where(nodes: list[dict[str, Any]]) -> str:
    said = [
        f"{' '.join(node['target'])} {node['any'][0]['message'] if node['any'] else ''}"
        for node in nodes[:3]
    ]
    return " | ".join(said)


def overflow(page: Page) -> int:
    """How many pixels the page is wider than its window."""
    return page.evaluate(
        "document.documentElement.scrollWidth - document.documentElement.clientWidth"
    )
