"""Six kits that are not shipped: written down from their leaflets, tried, published, run, taken
elsewhere."""

import re
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from kessa.library.models import MethodVersion
from kessa.results.models import Result
from tests.browser.base import BrowserTest
from tests.builders.people import Room
from tests.reading.own_kits import KITS, OwnKit
from tests.reading.test_walks import LATER, WALK, all_sent

CLICK_S, KEY_S, THINK_S = 1.3, 0.28, 6.0
"""A person at a form: to point and press, to press a key, to find the next fact on a leaflet."""
TEN_MINUTES_S = 600


class Hands:
    """Works a page by labels and roles, and counts what that takes."""

    def __init__(self, page: Page) -> None:
        self.page, self.clicks, self.keys, self.facts = page, 0, 0, 0

    @property
    def seconds(self) -> float:
        """What a person would need."""
        return self.clicks * CLICK_S + self.keys * KEY_S + self.facts * THINK_S

    def click(self, place: Locator) -> None:
        self.clicks += 1
        place.click()

    def put(self, label: str, value: str) -> None:
        """Types or chooses it, in the last field with this label, opening what hides it."""
        self.facts += 1
        field = self.page.get_by_label(label, exact=True).last
        for _ in range(3):
            if field.is_visible():
                break
            hidden = field.locator("xpath=ancestor::details[not(@open)][1]/summary")
            self.click(hidden.first)
        self.clicks += 1
        if field.evaluate("element => element.tagName") == "SELECT":
            options = field.locator("option").all_inner_texts()
            same = [one for one in options if one == value] or [
                one for one in options if value.lower() in one.lower()
            ]
            field.select_option(label=same[0])
        else:
            self.keys += len(value)
            field.fill(value)

    def saved(self) -> None:
        """The page has said what it makes of the change."""
        self.page.wait_for_timeout(400)
        expect(self.page.locator(".htmx-request")).to_have_count(0)


class OwnKits(BrowserTest):
    def test_each_from_its_leaflet_to_another_programme(self) -> None:
        """In less than ten minutes of a person's time, with a result of its own."""
        manager = self.sign_in(self.context(), self.room.people["manager"])
        monitor = self.sign_in(self.context())
        monitor.add_init_script(LATER)
        elsewhere = Room("south-room")
        other = self.sign_in(self.context(), elsewhere.people["manager"])
        for kit in KITS:
            with self.subTest(kit=kit.leaflet):
                hands = Hands(manager)
                self.write_down(hands, kit)
                self.publish(manager)
                made = MethodVersion.objects.of(self.room.programme).latest("pk")
                self.assertLess(hands.seconds, TEN_MINUTES_S)
                bench = self.bench(monitor, made.method_id)
                self.assertIn(monitor.evaluate(WALK), ("finished", "beyond"))
                all_sent(monitor)
                result = Result.objects.get(run_id=bench.run)
                self.assertEqual(result.current.value.figure, kit.figure)
                file = self.download(manager)
                other.goto(self.base + elsewhere.url("kits/"))
                other.get_by_label("Method file").set_input_files(file)
                other.get_by_role("button", name="Bring in").click()
                self.publish(other)
                copy = MethodVersion.objects.of(elsewhere.programme).latest("pk")
                self.assertEqual(copy.method.stages, made.method.stages)

    def write_down(self, hands: Hands, kit: OwnKit) -> None:
        page = hands.page
        page.goto(self.base + self.room.url("kits/"))
        hands.put("Name of the method", kit.title)
        hands.click(page.get_by_role("radio", name=re.compile(f"^{kit.held}")))
        hands.click(page.get_by_role("button", name="Begin"))
        for label, value in kit.typed:
            if label == "+":
                hands.click(page.get_by_role("button", name=value))
            else:
                hands.put(label, value)
            if label in ("+", "Parameter", "The formula takes off"):
                hands.saved()
        if kit.pasted:
            hands.click(page.get_by_text("Paste the leaflet’s table"))
            hands.keys += 4
            page.get_by_label(re.compile("One (shade|row) per line")).fill(kit.pasted)
            hands.click(page.get_by_role("button", name="Use this table"))
        expect(page.locator(".beside .signs .beyond")).to_have_count(0)

    def publish(self, page: Page) -> None:
        page.get_by_role("button", name=re.compile("^Try it on")).click()
        expect(page.get_by_text(re.compile("ranges held the true value"))).to_be_visible()
        page.get_by_role("button", name=re.compile("^Publish version 1")).click()
        expect(page.get_by_role("link", name="Download file")).to_be_visible()

    def download(self, page: Page) -> Path:
        with page.expect_download() as waiting:
            page.get_by_role("link", name="Download file").click()
        return waiting.value.path()
