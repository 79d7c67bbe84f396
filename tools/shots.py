"""The pictures of docs/screenshots, from the demo data: ./kessa shots."""

import re
from datetime import datetime, timedelta
from pathlib import Path

from playwright.sync_api import Page, Route, sync_playwright

from kessa.pages.demo.people import PASSWORD
from tools.serving import serving

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"
WIDE, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}


def sign_in(page: Page, address: str, name: str = "monitor") -> None:
    page.goto(address)
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.wait_for_url("**/today/")


def to_the_water(page: Page, method: str = "Chloride, 15 mL") -> None:
    """From a point to what is noted before touching the water."""
    page.get_by_role("button", name="Start test").click()
    page.get_by_role("button", name=re.compile("^" + re.escape(method))).click()
    page.get_by_role("button", name="Yes, it is safe").click()
    page.get_by_label("cloudy").check()
    page.get_by_label("heavy rain").check()
    page.get_by_label("foam").check()


def to_the_bench(page: Page) -> None:
    """Take the sample."""
    page.get_by_role("button", name="Next: take the sample").click()
    page.get_by_label("Water temperature, °C").fill("6")
    page.get_by_role("button", name=re.compile("Save sample")).click()
    page.locator("#main[data-ready]").wait_for()


SECONDS = {"Space": 6, "n": 20, "1": 6, "e": 5}
"""What an act takes at a real bench; the page's clock goes on by it."""


class Ahead:
    """How far the page's clock was moved on; what the server says of the time moves with it."""

    seconds = 0

    def answer(self, route: Route) -> None:
        response = route.fetch()
        told = response.json()
        now = datetime.fromisoformat(told["now"]) + timedelta(seconds=self.seconds)
        route.fulfill(response=response, json=told | {"now": now.isoformat()})


ahead = Ahead()


def keys(page: Page, *pressed: str) -> None:
    for key in pressed:
        ahead.seconds += SECONDS[key]
        page.clock.fast_forward(SECONDS[key] * 1000)
        page.keyboard.press(key)


def thread(page: Page, address: str, size: str) -> None:
    """One size: Today, point, context, bench counting, failed blank, result, log."""

    def take(name: str) -> None:
        page.wait_for_load_state("networkidle")  # what a page fetches once it is shown
        page.wait_for_timeout(350)
        page.screenshot(path=FOLDER / f"{name}-{size}.png")

    sign_in(page, address)
    take("today")
    page.goto(f"{address}/p/lowen-vale/points/2/")
    take("point")
    to_the_water(page)
    to_the_bench(page)
    keys(page, "1", "n", "n", "n", "1", "Space", "Space", "Space", "e", "n")
    keys(page, "n", "n", "n", "n", "1", "Space", "Space", "e", "n")
    keys(page, "n", "n", "n", "n", "1", *["Space"] * 7, "e", "n")
    keys(page, "n", "n", "n", "n", "1", *["Space"] * 7)
    take("bench")
    if size == "phone":
        theme(page, "sunlight")
        take("bench-sunlight")
        theme(page, "day")
    keys(page, "Space", "e", "n")
    page.get_by_role("link", name="Open the result in the log").wait_for()
    if size == "wide":
        page.get_by_role("link", name="Open the result in the log").click()
        page.wait_for_url("**/results/*/")
        take("result")
        page.goto(f"{address}/p/lowen-vale/log/")
        take("log")
        page.goto(f"{address}/p/lowen-vale/library/nitrate-comparator/2/")
        take("method")
        page.goto(f"{address}/p/lowen-vale/library/?limit=ccme-freshwater/chloride-long")
        take("library")
        theme(page, "dark")
        page.goto(f"{address}/p/lowen-vale/points/2/")
        take("point-dark")


def before_and_after(page: Page, address: str) -> None:
    """A set with what to pack, and a sheet from paper while it is typed."""
    page.goto(f"{address}/p/lowen-vale/sets/")
    page.get_by_role("link", name="Brook round").click()
    page.get_by_role("heading", name="What to pack").wait_for()
    page.screenshot(path=FOLDER / "set-wide.png")
    page.get_by_role("link", name="Type in a filled sheet").click()
    fields = page.locator("[data-line='0'] input[data-cell]")
    page.get_by_label("Time").first.fill("9:40")
    for at in range(fields.count()):
        title = fields.nth(at).get_attribute("aria-label") or ""
        fields.nth(at).fill(next(text for key, text in PAPER.items() if title.startswith(key)))
    page.wait_for_timeout(1500)
    page.screenshot(path=FOLDER / "entry-wide.png")


PAPER = {
    "Temperature": "5.5", "Oxygen": "10", "pH": "7.5", "Conductivity": "212 µS/cm",
    "Chloride": "b1 5 6", "Nitrate": "2.4",
}  # fmt: skip


def theme(page: Page, name: str) -> None:
    """Press the switch until the theme is there."""
    while page.evaluate("document.documentElement.dataset.theme") != name:
        page.get_by_role("button", name="Theme").click()


def review(page: Page, address: str) -> None:
    """The reviewer's queue, at the newest of those that wait."""
    sign_in(page, address, "reviewer")
    page.goto(f"{address}/p/lowen-vale/review/")
    page.locator(".queue a").last.click()
    page.wait_for_timeout(350)
    page.screenshot(path=FOLDER / "review-wide.png")


def lot(page: Page, address: str) -> None:
    """What correcting a lot would change."""
    sign_in(page, address, "reviewer")
    page.goto(f"{address}/p/lowen-vale/lots/1/correct/")
    page.get_by_role("button", name="It reads high or low").click()
    page.get_by_label("It finds, % of a standard").fill("60")
    page.get_by_label("Reason").fill("a standard of 100 mg/L read 60")
    page.get_by_role("button", name="Save correction").click()
    page.get_by_role("heading", name="What would change").wait_for()
    page.screenshot(path=FOLDER / "lot-wide.png")


def editor(page: Page, address: str) -> None:
    """A kit written down from its leaflet, tried."""
    sign_in(page, address, "manager")
    page.goto(f"{address}/p/lowen-vale/kits/")
    page.get_by_label("Name of the method").fill("Sulphite by drops, the grey case")
    page.get_by_role("radio", name=re.compile("^Drops")).check()
    page.get_by_role("button", name="Begin").click()
    for label, typed in (
        ("Which kit", "Grey case, 25 mL"), ("Name of the result", "Sulphite"),
        ("Portion, mL", "25"), ("One drop stands for", "5"),
    ):  # fmt: skip
        page.get_by_label(label, exact=True).fill(typed)
    page.get_by_label("Parameter", exact=True).select_option("sulphite")
    page.wait_for_timeout(1500)
    page.get_by_role("button", name="Add to Waste").click()
    page.wait_for_timeout(1500)
    page.get_by_label("What is left").fill("the titrated sample")
    page.get_by_label("What the person is told").last.fill("Down the drain with water.")
    page.get_by_role("button", name="Try it on 200").click()
    page.get_by_text("ranges held the true value").first.wait_for()
    page.evaluate("scrollTo(0, 0)")
    page.wait_for_timeout(350)
    page.screenshot(path=FOLDER / "editor-wide.png")


TESTS = (
    "chloride-drops-15ml", "conductivity-meter", "hardness-strip", "nitrate-tablets", "ph-strips",
    "phosphate-strip",
)  # fmt: skip


def visit(page: Page, address: str, size: str) -> None:
    """Six tests of one sample: one done, a clock running, the next at hand."""
    sign_in(page, address)
    page.goto(f"{address}/p/lowen-vale/points/2/several/")
    for method in TESTS:
        page.locator(f"input[value={method}]").check()
    page.get_by_role("button", name="Start", exact=True).click()
    page.get_by_role("button", name="Yes, it is safe").click()
    page.get_by_label("cloudy").check()
    page.get_by_label("heavy rain").check()
    page.get_by_role("button", name="Next: take the sample").click()
    page.get_by_role("button", name=re.compile("Save sample")).click()
    page.wait_for_url("**/visits/*/")
    here = page.url
    for name, pressed in (
        ("Hardness, strip", ["n"]),
        ("Chloride, 15 mL", ["1", "n", "n", "n", "1", "Space", "e", "n"]),
    ):
        page.get_by_role("link", name=name).last.click()
        page.locator("#main[data-ready]").wait_for()
        for key in pressed:
            page.wait_for_timeout(250)
            page.keyboard.press(key)
        page.locator('#sent[data-state="sent"]').wait_for()
        page.goto(here)
    page.wait_for_timeout(1500)
    page.screenshot(path=FOLDER / f"visit-{size}.png")


def main() -> None:
    with serving() as address, sync_playwright() as playwright:
        chromium = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        for size, viewport in (("wide", WIDE), ("phone", PHONE)):
            page = chromium.new_context(viewport=viewport, timezone_id="Europe/London").new_page()
            page.clock.install()
            ahead.seconds = 0
            page.route("**/events/", ahead.answer)
            thread(page, address, size)
            theme(page, "day")
            if size == "wide":
                before_and_after(page, address)
            other = chromium.new_context(viewport=viewport, timezone_id="Europe/London")
            visit(other.new_page(), address, size)
        review(chromium.new_context(viewport=WIDE).new_page(), address)
        lot(chromium.new_context(viewport=WIDE).new_page(), address)
        editor(chromium.new_context(viewport=WIDE).new_page(), address)
        chromium.close()


if __name__ == "__main__":
    main()
