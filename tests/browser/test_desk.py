"""The desk by mouse and keyboard: review, correction, joining, search, keys, first use."""

import re

from playwright.sync_api import expect

from kessa.platform.models import Person
from tests.browser.base import PHONE, BrowserTest
from tests.builders.people import PASSWORD


class Reviewing(BrowserTest):
    def test_by_the_keyboard(self) -> None:
        """J and K go along the queue; A accepts; R asks for the reason first."""
        old = self.room.finished((13, 13), days_ago=4)
        middle = self.room.finished((7, 12, 8), days_ago=2)
        new = self.room.finished((15, 14), days_ago=1)
        page = self.sign_in(self.context(), self.room.people["reviewer"])
        page.goto(self.base + self.room.url("review/"))
        for key, shows in (("j", "7, 8 drops"), ("k", "13, 13 drops"), ("a", "7, 8 drops")):
            page.keyboard.press(key)
            expect(page.locator(".working")).to_contain_text(shows)
            page.wait_for_load_state()
        page.keyboard.press("r")
        expect(page.get_by_label("Reason")).to_be_focused()
        page.keyboard.type("which bottle?")
        page.get_by_role("button", name="Return").click()
        expect(page.locator(".working")).to_contain_text("15, 14 drops")
        for result, status, waits in (
            (old, "reviewed", ""),
            (middle, "provisional", "analyst"),
            (new, "provisional", "reviewer"),
        ):  # fmt: skip
            result.refresh_from_db()
            self.assertEqual((result.status, result.waits_for), (status, waits))

    def test_a_correction_from_end_to_end(self) -> None:
        """Returned, found on Today, corrected, accepted by somebody else; the old one struck."""
        result = self.room.finished((7, 8), days_ago=1)
        page = self.sign_in(self.context(), self.room.people["reviewer"])
        page.goto(self.base + self.room.url("review/"))
        page.get_by_label("Reason").fill("the tally sheet says 8")
        page.get_by_role("button", name="Return").click()
        analyst = self.sign_in(self.context(PHONE))
        analyst.goto(self.base + self.room.url("today/"))
        analyst.get_by_role("link", name="Returned to you").click()
        analyst.get_by_text("Correct", exact=True).click()
        analyst.get_by_role("link", name="A reading").click()
        analyst.get_by_role("radio", name="first: 7").check()
        analyst.get_by_label("Drops counted").fill("8")
        analyst.get_by_role("button", name="Save correction").click()
        expect(analyst.get_by_text("Enter a reason")).to_be_visible()
        expect(analyst.get_by_label("Drops counted")).to_have_value("8")
        analyst.get_by_label("Reason").fill("read the line above")
        analyst.get_by_role("button", name="Save correction").click()
        expect(analyst.locator(".figure.huge")).to_have_text("62")
        expect(analyst.locator("s.figure")).to_have_text("58")
        page.reload()
        expect(page.get_by_label("Check this")).to_contain_text("Changed: read the line above")
        page.keyboard.press("a")
        expect(page.get_by_text("No results to review.")).to_be_visible()
        result.refresh_from_db()
        self.assertEqual(result.status, "reviewed")


class Joining(BrowserTest):
    def test_from_the_invitation_to_the_first_page(self) -> None:
        """A manager makes the code; a new person joins with it on a phone."""
        page = self.sign_in(self.context(), self.room.people["manager"])
        page.goto(self.base + self.room.url("people/"))
        page.get_by_label("For whom").fill("Wren")
        page.get_by_role("button", name="Create code").click()
        code = page.locator(".code").inner_text()
        expect(page.get_by_role("img", name="QR code of the address")).to_be_visible()
        guest = self.new_page(self.context(PHONE))
        guest.goto(f"{self.base}/join/#code={code}")
        guest.get_by_role("button", name="Continue").click()
        guest.get_by_label("Your name on results").fill("Wren Askew")
        guest.get_by_label("Sign-in name").fill("wren")
        guest.get_by_label("Password").fill("slate-and-kettle-9")
        guest.get_by_role("button", name="Create account and join").click()
        expect(guest.get_by_role("heading", level=1)).to_be_visible()
        guest.get_by_text("Menu").click()
        expect(guest.get_by_text(f"You are in {self.room.programme.name}")).to_be_visible()
        guest.get_by_role("link", name="People", exact=True).click()
        expect(guest.get_by_role("row", name=re.compile("Wren Askew"))).to_contain_text("Monitor")


class Everywhere(BrowserTest):
    def test_search_and_keys(self) -> None:
        """/ searches while one types; ? lists the keys; G L goes to the log."""
        result = self.room.finished()
        page = self.sign_in(self.context())
        page.goto(self.base + self.room.url("today/"))
        page.keyboard.press("/")
        page.keyboard.type("chlor")
        page.keyboard.press("Enter")
        page.get_by_role("link", name=re.compile("Chloride: 58")).click()
        expect(page).to_have_url(re.compile(f"results/{result.pk}/$"))
        page.wait_for_load_state()
        page.keyboard.press("?")
        expect(page.get_by_role("dialog", name="Keyboard keys")).to_be_visible()
        page.keyboard.press("Escape")
        page.keyboard.press("g")
        page.keyboard.press("l")
        expect(page).to_have_url(re.compile("/log/$"))

    def test_search_answers_while_one_types_and_says_when_it_cannot(self) -> None:
        """The list follows; without a connection the page says so."""
        page = self.sign_in(self.context())
        page.goto(self.base + self.room.url("search/"))
        box = page.get_by_label("Point, day, value")
        box.fill("ford")
        expect(page.get_by_role("link", name="Beck, at the ford")).to_be_visible()
        page.context.set_offline(True)
        box.fill("weir")
        expect(page.get_by_role("alert")).to_contain_text("No connection")
        page.context.set_offline(False)
        box.fill("the weir")
        expect(page.get_by_role("link", name="Beck, at the weir")).to_be_visible()
        expect(page.locator("#not-loaded")).to_be_hidden()

    def test_every_page_is_two_taps_away_on_the_phone(self) -> None:
        """Places lie below; everything else in the menu."""
        page = self.sign_in(self.context(PHONE), self.room.people["manager"])
        page.goto(self.base + self.room.url("today/"))
        below = page.get_by_role("navigation", name="Main, phone")
        self.assertEqual(below.get_by_role("link").all_inner_texts(),
                         ["Today", "Points", "Bench", "Log", "Library"])  # fmt: skip
        for name in ("Search", "Review", "People", "Audit trail", "Settings", "Your account"):
            page.goto(self.base + self.room.url("today/"))
            page.get_by_text("Menu").click()
            page.get_by_role("link", name=name, exact=True).click()
            expect(page.locator("h1")).not_to_have_text(re.compile("Page not found"))

    def test_print(self) -> None:
        """On paper: no controls, the figure, the gauge and the evidence."""
        result = self.room.finished()
        page = self.sign_in(self.context())
        page.emulate_media(media="print")
        for path, shown in (
            (f"results/{result.pk}/", ".big-value .gauge"),
            ("log/", "table.is-stacked"),
        ):
            page.goto(self.base + self.room.url(path))
            expect(page.locator(shown).first).to_be_visible()
            for hidden in (".top", ".places-phone", ".buttons", ".filters"):
                self.assertEqual(page.locator(f"{hidden}:visible").count(), 0)
        page.goto(self.base + self.room.url("library/chloride-drops-15ml/4/card/"))
        expect(page.locator("article")).to_be_visible()
        expect(page.get_by_role("button", name="Print")).to_be_hidden()

    def test_the_bench_signals_can_be_switched_off(self) -> None:
        """The count in the title goes; the choice stays on the device."""
        bench = self.bench()
        bench.press("1").steps("blank").press("Space")
        expect(bench.page).to_have_title(re.compile("^1 · "))
        bench.page.get_by_text("Sound, vibration, notices, expert mode").click()
        bench.page.get_by_label("Count and timer in the title").uncheck()
        expect(bench.page).to_have_title(re.compile("^Chloride"))
        bench.page.reload()
        bench.ready()
        expect(bench.page).to_have_title(re.compile("^Chloride"))


class FirstUse(BrowserTest):
    def test_a_person_with_nothing_reaches_the_bench(self) -> None:
        """Begin a programme, name the first point, take the sample, count."""
        person = Person.objects.create_user("wren", password=PASSWORD, shown_name="Wren Askew")
        page = self.sign_in(self.context(PHONE), person)
        page.goto(self.base)
        page.get_by_role("link", name="Create a programme").click()
        page.get_by_label("Name").fill("Wren’s well")
        page.get_by_role("button", name="Create programme").click()
        expect(page.get_by_role("heading", name="Where do you test?")).to_be_visible()
        page.get_by_label("Name of the new stream").fill("The well")
        page.get_by_label("Point", exact=True).fill("at the pump")
        page.get_by_label("Exact location").fill("yard, behind the barn")
        page.get_by_role("button", name="Save and start the first test").click()
        page.get_by_role("button", name="Start test").click()
        page.get_by_role("button", name=re.compile("^Chloride, 15 mL")).click()
        page.get_by_role("button", name="Yes, it is safe").click()
        page.get_by_role("radio", name="clear", exact=True).check()
        page.get_by_role("radio", name="dry", exact=True).check()
        page.get_by_role("button", name="Next: take the sample").click()
        page.get_by_role("button", name="Save sample").click()
        expect(page.locator("#main[data-ready]")).to_be_visible()
        expect(page.locator("h2#title")).to_contain_text("pH")
