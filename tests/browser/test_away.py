"""A visit of six tests at two points without a network, from the front door to its end."""

import re
from datetime import date

from playwright.sync_api import Locator, Page, expect

from kessa.library.services import in_use
from kessa.photos.models import Photograph
from kessa.results.models import Result
from kessa.runs.models import Run
from kessa.visits.models import Sample, VisitEvent
from kessa.visits.sets import make_set
from kessa_core.methods import shipped
from tests.browser.base import PHONE, BenchDriver, BrowserTest, axe, overflow
from tests.browser.server import Server
from tests.browser.test_keeping import free_port
from tests.browser.test_photographs import FILE

METHODS = ("chloride-drops-15ml", "conductivity-meter", "disc-on-rope")
READINGS = {"conductivity-meter": "212 µS/cm", "disc-on-rope": "1.2"}


class Away(BrowserTest):
    worker = True

    def setUp(self) -> None:
        super().setUp()
        self.server = Server(free_port())
        self.addCleanup(self.server.stop)
        self.server.start()
        self.base = self.server.address
        for method in METHODS:
            in_use(self.room.programme, method, self.room.monitor)
        asked = [
            {"point": one.pk, "methods": list(METHODS)}
            for one in (self.room.point, self.room.other)
        ]
        rhythm = {"kind": "occasion", "occasion": "call"}
        self.set = make_set(
            self.room.programme, None, name="Round", asked=asked, rhythm=rhythm,
            begins=date(2026, 1, 1),
        )  # fmt: skip
        self.phone = self.context(PHONE)
        self.page = self.sign_in(self.phone)

    def begin(self) -> str:
        """The visit is begun where there is a network, and this device keeps it; its address."""
        self.page.goto(self.base + self.room.url(f"sets/{self.set.pk}/"))
        self.page.get_by_role("button", name="Begin the visit").click()
        expect(self.page.locator("body[data-along=kept]")).to_be_visible(timeout=60_000)
        said = self.page.locator("#along-said")
        expect(said).to_have_text(re.compile(r"with 15 pages, \d\.\d MB\. It works without"))
        return self.page.url

    def sample(self, point: str) -> None:
        """From the visit's page to the sample of a point; what is no number is not kept."""
        page = self.page
        section = page.locator("section[data-sample]").filter(has_text=point)
        section.get_by_role("link", name="Sample here").click()
        self.ready("safety")
        page.get_by_role("button", name="Yes, it is safe").click()
        self.ready("context")
        air = page.get_by_label("Air in the shade, °C")
        air.fill("six")
        page.get_by_role("button", name="Next: take the sample").click()
        expect(air).to_have_attribute("aria-invalid", "true")
        expect(air).to_have_value("six")
        air.fill("6")
        page.get_by_role("radio", name="rain", exact=True).first.check()
        page.get_by_role("radio", name="dry").check()
        page.get_by_role("button", name="Next: take the sample").click()
        self.ready("sample")
        page.get_by_label("Water temperature, °C").fill("4.5")
        page.get_by_role("button", name="Save sample and start 3 tests").click()
        expect(section).to_contain_text("on this device")

    def ready(self, name: str) -> None:
        """The page of a sample is there with its script, as it is before a hand can move."""
        self.page.wait_for_url(re.compile(f"/{name}/$"))
        self.page.locator("#away[data-ready]").wait_for(state="attached")

    def carry_out(self, at: Page, method: str) -> None:
        """One test from its bench to its end."""
        bench = BenchDriver(at)
        if method == METHODS[0]:
            bench.through(7, 8)
        for _ in range(30):
            if bench.spot in ("tick", "wait"):
                bench.press("n")
            elif bench.spot == "check":
                bench.press("1")
            elif bench.spot == "read":
                bench.type(READINGS[method]).take()
            else:
                break
        expect(at.locator("#sent")).to_contain_text("saved here")

    def rows(self) -> Locator:
        """The tests of what was sampled on this device."""
        return self.page.locator("section[data-here=taken] li[data-run]")

    def photograph(self, what: str) -> None:
        """What is seen, from the visit's page."""
        self.page.get_by_label("Photograph what you see").set_input_files(FILE)
        self.page.get_by_label("What it shows").fill(what)
        self.page.get_by_role("button", name="Save photograph").click()
        expect(self.page.get_by_text("Saved on this device: 1, not sent yet.")).to_be_visible()

    def restart(self, address: str) -> Page:
        """The phone is off and on again: a new page opens where the old one was."""
        self.page.close()
        self.page = self.new_page(self.phone)
        self.page.goto(address)
        return self.page

    def test_from_the_front_door(self) -> None:
        """Two points, six tests, the phone restarted in the middle, the end: all of it in the log
        once the network is back, each with its own time."""
        address = self.begin()
        self.server.kill()
        self.sample("at the ford")
        self.assertEqual((axe(self.page), overflow(self.page)), ([], 0))
        expect(self.page.locator("#now-here")).to_contain_text("the plan made before you left")
        for number in range(3):
            row = self.rows().nth(number)
            name = row.get_by_role("link").inner_text()
            method = next(key for key in METHODS if shipped(key).short == name)
            row.get_by_role("link").click()
            self.carry_out(self.page, method)
            if number == 1:
                self.restart(self.base + self.room.url("today/"))
                self.page.get_by_role("link", name=re.compile("^Round")).click()
            else:
                self.page.goto(address)
            if number == 0:
                self.photograph("foam under the weir")
            expect(self.rows().nth(number)).to_have_attribute("data-done", "yes")
        self.sample("at the weir")
        self.page.get_by_role("link", name="Finish the visit").first.click()
        self.ready("end")
        self.page.get_by_label("Read last, in the shade").fill("7.5")
        self.page.get_by_label("It comes home with me").check()
        self.page.get_by_label("To whoever reads it next").fill("Ice on the way back.")
        self.page.get_by_role("button", name="Hand over").click()
        expect(self.page.locator("#ended-here")).to_be_visible()
        self.assertFalse(Result.objects.exists())

        self.server.start()
        self.restart(address)
        expect(self.page.locator("#board header")).to_contain_text("handed over", timeout=60_000)
        samples = Sample.objects.of(self.room.programme).order_by("pk")
        self.assertEqual([one.outcome for one in samples], ["taken", "taken"])
        self.assertEqual({str(one.water_c) for one in samples}, {"4.5"})
        done = Result.objects.filter(run__sample=samples[0], current__isnull=False)
        self.assertEqual(done.count(), 3)
        events = VisitEvent.objects.of(self.room.programme).exclude(sent_id=None).order_by("pk")
        self.assertEqual(
            [one.kind for one in events],
            ["safe", "conditions", "taken", "photo", "safe", "conditions", "taken", "ended"],
        )
        expect(self.page.get_by_alt_text("foam under the weir")).to_be_visible(timeout=30_000)
        self.assertEqual(Photograph.objects.get().key, events.get(kind="photo").data["photo"])
        samples[1].refresh_from_db()
        self.assertEqual(str(samples[1].air_c), "7.5")
        moments = [one.at for one in events]
        self.assertEqual(moments, sorted(moments))
        self.assertFalse(events.filter(beside=True).exists())

    def test_with_the_sign_in_expired(self) -> None:
        """Kept under the person's own name, and sent with the device's permission."""
        self.begin()
        run = Run.objects.of(self.room.programme).first()
        assert run is not None
        self.server.kill()
        self.phone.clear_cookies()
        self.sample("at the ford")
        expect(self.page.locator("#waiting")).to_contain_text("3 actions")
        self.server.start()
        sample = Sample.objects.of(self.room.programme).order_by("pk")[0]
        for _ in range(100):
            sample.refresh_from_db()
            if sample.outcome == "taken":
                break
            self.page.wait_for_timeout(200)
        self.assertEqual((sample.outcome, sample.taken_by), ("taken", self.room.monitor))
