"""The browser under test, and a person at the bench who works by role and label."""

import atexit
import re
from collections.abc import Sequence
from functools import cache
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.test import Client, LiveServerTestCase
from playwright.sync_api import Browser, BrowserContext, Locator, Page, expect, sync_playwright

from kessa.platform.models import Person
from tests.browser.inflight import close_down, open_up
from tests.builders.people import Room

NOT_NEEDED = (
    "PreloadTopChromeWebUI", "WebUIOmniboxPopup", "WebUIOmniboxAimPopup",
    "AvoidUnnecessaryBeforeUnloadCheckSync", "DestroyProfileOnBrowserClose", "HttpsUpgrades",
    "HttpsFirstBalancedModeAutoEnable", "LensOverlay", "MediaRouter", "PaintHolding",
    "ThirdPartyStoragePartitioning", "AvoidCorsURLLoaderRestartOnRedirect",
    "TcpPortRandomizationWin", "OptimizationHints", "NetworkTimeServiceQuerying", "AimEnabled",
    "PreconnectToSearch",
)  # fmt: skip
"""The first three draw the browser's own panels beside every new page; the others are what
Playwright turns off, which this list replaces."""
ARGUMENTS = [
    f"--disable-features={','.join(NOT_NEEDED)}",
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip
expect.set_options(timeout=20_000)
WIDE = {"width": 1280, "height": 800}
PHONE = {"width": 390, "height": 844}
AXE = Path(__file__).parent / "vendor" / "axe.min.js"


@cache
def chromium() -> Browser:
    """The browser of this process, closed at its end."""
    playwright = sync_playwright().start()
    atexit.register(playwright.stop)
    return playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)


class BrowserTest(LiveServerTestCase):
    """One Chromium for all, one context a test; any error on a page fails the test."""

    worker = False
    """Whether the service worker runs, which makes every new browser fetch the bench once more."""
    static_handler = staticmethod(lambda application: application)
    """Static files come through the application, as in production: to be kept for good."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.chromium = chromium()

    def _fixture_teardown(self) -> None:
        """Django's own, but for the rows that it writes after a migration: nothing here needs
        them."""
        call_command("flush", verbosity=0, interactive=False, inhibit_post_migrate=True)

    def setUp(self) -> None:
        open_up()
        self.addCleanup(close_down)
        self.room = Room()
        self.base = self.live_server_url
        self.page_errors: list[str] = []

    def context(self, size: dict[str, int] = WIDE, **more: Any) -> BrowserContext:
        """A browser with nothing in it yet; drops fall without being drawn falling."""
        workers = "allow" if self.worker else "block"
        still: dict[str, Any] = {"reduced_motion": "reduce", "service_workers": workers}
        context = self.chromium.new_context(viewport=size, **still | more)
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
        page.set_default_timeout(30_000)
        page.add_init_script(HANDS)
        page.on("pageerror", lambda error: self.page_errors.append(str(error)))
        return page

    def tearDown(self) -> None:
        self.assertEqual(self.page_errors, [])

    def bench(self, page: Page | None = None, method: str = "chloride-drops-15ml") -> "BenchDriver":
        """A bench with a fresh run of this method."""
        page = page or self.sign_in(self.context())
        run = self.room.new_run(method=method)
        page.goto(self.base + self.room.url(f"bench/{run.pk}/"))
        return BenchDriver(page, str(run.pk))


HANDS = """const later = () => {
  const now = performance.now.bind(performance);
  performance.now = () => now() + 200;
};
addEventListener("keydown", ({ code }) => code === "Space" && later(), true);
addEventListener("pointerdown", ({ pointerType }) => pointerType === "touch" && later(), true);
addEventListener("click", ({ detail }) => detail < 2 && later(), true);"""
"""A hand leaves 0.2 s between two drops; the page takes two sooner taps for one. A double click is
no such hand."""


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
        self.page.get_by_role("button", name=re.compile(re.escape(name).replace("/", "."))).click()
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

    # Any method: steps, clocks and readings.

    @property
    def spot(self) -> str:
        return self.page.evaluate("document.getElementById('main').dataset.now")

    def go(self, *answers: str, until: str = "") -> "BenchDriver":
        """Every step up to the next count or reading (or *until* a kind of step), each wait to its
        end; checks pass by their first answer, or by these in turn."""
        given = list(answers)
        for _ in range(80):
            if (spot := self.spot) == until or spot not in ("tick", "check", "wait"):
                break
            if spot == "check":
                self.press(given.pop(0) if given else "1")
                continue
            if spot == "wait":
                self.wait_out()
            self.press("n")
        return self

    def flagged(self, words: str) -> Locator:
        """The flag of the result that says this."""
        return self.page.locator(".flagged").filter(has_text=words)

    def wait_out(self) -> "BenchDriver":
        """The clock runs to its time; the page's clock must be installed."""
        left = self.page.locator("#clock-time").inner_text()
        seconds = 0
        for part in left.split(":"):
            seconds = seconds * 60 + int(part)
        self.page.clock.fast_forward(seconds * 1000)
        return self

    @property
    def dial(self):
        return self.page.get_by_role("slider").locator("visible=true")

    def type(self, raw: str) -> "BenchDriver":
        """What the scale shows, into the plain field; "12.4 mS/cm" chooses the unit too."""
        places = self.page.locator("#reading-place")
        if places.is_visible():
            texts = places.locator("option").all_inner_texts()
            places.select_option(
                index=next(i for i, text in enumerate(texts) if text.split(" mg/L")[0] == raw
                           or text.split(" NTU")[0] == raw)
            )  # fmt: skip
            return self
        figure, _, unit = raw.partition(" ")
        self.page.get_by_label("Reading", exact=True).fill(figure)
        if unit:
            self.page.get_by_label("Unit shown").select_option(unit)
        return self

    def take(self) -> "BenchDriver":
        return self.click("Save reading")

    @property
    def title(self):
        return self.page.locator("h2#title")

    @property
    def number(self):
        return self.page.locator("output#n")

    def digest(self) -> list[str]:
        return self.page.evaluate("document.getElementById('main').kessa.digest()")

    def all_sent(self) -> "BenchDriver":
        expect(self.page.locator("#sent")).to_have_text("All sent", timeout=120_000)
        return self

    def tape(self) -> list[str]:
        return [" ".join(text.split()) for text in self.page.locator("#tape li").all_inner_texts()]


TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]


def axe(page: Page, rules: Sequence[str] = (), but: str = "") -> list[str]:
    """What axe-core finds wrong on the page (WCAG 2.2 AA), or against these *rules* alone; *but*: a
    rule that is left out."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE.read_text("utf-8"))
    options = {
        "runOnly": {"type": "rule", "values": list(rules)} if rules else TAGS,
        "resultTypes": ["violations"],
        "preload": False,
        "rules": {but: {"enabled": False}} if but else {},
    }
    found = page.evaluate("async (how) => (await axe.run(how)).violations", options)
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
