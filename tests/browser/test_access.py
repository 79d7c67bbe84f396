"""axe-core on every page, in both sizes and three themes; nothing is wider than its window."""

from collections.abc import Iterator, Sequence
from datetime import date

from django.test import override_settings
from playwright.sync_api import Page, expect

from kessa.flows.correcting import correct_reading
from kessa.flows.reviewing import decide
from kessa.library.cases import make_case
from kessa.library.drafts import begin as begin_draft
from kessa.library.equipment import note_instrument
from kessa.library.models import Lot
from kessa.people.device_tokens import allow
from kessa.people.members import invite, withdraw
from kessa.places.limit_drafts import begin_copy
from kessa.platform.models import Membership
from kessa.ui.context import THEMES
from kessa.visits.services import begin
from kessa.visits.sets import begin_set
from kessa_core.drafts.starts import from_method
from kessa_core.methods import shipped
from tests.browser.base import PHONE, WIDE, BenchDriver, BrowserTest, axe, overflow
from tests.builders.photographs import photographed_test
from tests.web.test_sets import new_set

STYLE = "/style/"


def put_on(page: Page, theme: str) -> None:
    """The theme without its switch."""
    page.evaluate("theme => document.documentElement.dataset.theme = theme", theme)


def found_in(page: Page, theme: str, width: int = WIDE["width"]) -> list[str]:
    """What is wrong in this theme: every rule in the first, in the others what a theme changes; on
    the phone every rule but that one."""
    put_on(page, theme)
    if width == PHONE["width"]:
        return axe(page, but="color-contrast")
    return axe(page, () if theme == THEMES[0] else ("color-contrast",))


def views(page: Page, themes: Sequence[str] = THEMES) -> Iterator[tuple[str, int]]:
    """The page as it is, wide in every theme and then small: what a theme changes, its colours,
    is the same in both."""
    for theme in themes:
        yield theme, WIDE["width"]
    page.set_viewport_size(PHONE)
    yield THEMES[0], PHONE["width"]
    page.set_viewport_size(WIDE)


@override_settings(ROOT_URLCONF="tests.browser.urls")
class Access(BrowserTest):
    def pages(self) -> list[str]:
        room, manager = self.room, self.room.people["manager"]
        result = room.finished((7, 12, 8))
        correct_reading(result, room.monitor, "first-1", 8, "plain", "misread")
        for day in range(9):
            room.finished(days_ago=day + 1)
        returned = room.finished((7, 12, 17), days_ago=2)
        decide(returned, manager, "return", "which bottle?", returned.current_id)
        sample = begin(room.programme, room.monitor, room.point, "chloride-drops-15ml")
        run = room.new_run()
        invite(room.programme, manager, "viewer", "Wren")
        left = Membership.objects.get(programme=room.programme, person=room.people["viewer"])
        withdraw(left, manager)
        member = Membership.objects.get(programme=room.programme, person=room.monitor)
        allow(run.sample.visit, manager, "device-1", "Android, Chrome")
        lot = Lot.objects.get(programme=room.programme)
        limits = begin_copy(room.programme, manager, "eu-drinking")
        case = make_case(room.programme, manager, name="Green case", lots=[lot.pk])
        described = {"name": "meter", "kinds": ["pocket pH meter"], "check_due": date(2026, 1, 31)}
        meter = note_instrument(room.programme, manager, **described)
        read = room.new_run(method="ph-meter")
        copy = from_method(shipped("nitrate-comparator"), "A copy")
        visit = room.new_visit("chloride-drops-15ml", "phosphate-strip")
        draft = begin_draft(room.programme, manager, copy)
        taken = photographed_test(room)
        held = new_set(room)
        round_ = begin_set(held, room.monitor, [room.point, room.other], None)
        paths = [
            "calculator/", "calculator/alkalinity-species/?p_as_caco3=60&m_as_caco3=90 ± 4",
            "today/", "waters/", f"waters/{room.water.pk}/targets/",
            f"points/{room.point.pk}/", f"points/{room.other.pk}/",
            f"points/{room.point.pk}/usual/", f"points/{room.point.pk}/events/",
            f"points/{room.point.pk}/photograph/",
            f"waters/{room.water.pk}/", "points/bring/",
            "parameters/", "parameters/chloride/",
            "points/new/", f"points/{room.point.pk}/change/",
            f"samples/{sample.pk}/safety/", f"samples/{sample.pk}/context/",
            f"samples/{sample.pk}/sample/", "bench/", f"bench/{run.pk}/", "log/",
            "log/?sign=beyond", f"results/{result.pk}/", f"results/{returned.pk}/",
            f"results/{result.pk}/correct/", f"results/{result.pk}/correct-sample/",
            "review/", "review/?result=" + str(result.pk), "library/", "library/lots/new/",
            "library/chloride-drops-15ml/4/", "results/0/", "search/?q=ford", "search/?q=zzz",
            "library/chloride-drops-15ml/choices/", f"waters/{room.water.pk}/change/",
            "limits/", "limits/ccme-freshwater/chloride-long/", f"lots/{lot.pk}/",
            "limits/set/who-drinking/", "limits/set/eu-drinking/attach/",
            "limits/set/eu-drinking/compare/?with=who-drinking",
            "limits/epa-freshwater/ammonia-acute/", f"limits/drafts/{limits.pk}/",
            f"limits/drafts/{limits.pk}/limits/lead/", f"limits/drafts/{limits.pk}/text/",
            f"lots/{lot.pk}/correct/", f"lots/{lot.pk}/standard/", f"instruments/{meter.pk}/",
            "library/cases/new/", f"library/cases/{case.pk}/", "library/instruments/new/",
            f"library/instruments/{meter.pk}/check/",
            f"library/instruments/{meter.pk}/edit/", f"bench/{read.pk}/",
            "library/?limit=ccme-freshwater/chloride-long", "library/ph-meter/shipped/",
            "library/compare/?method=ph-meter&method=ph-tablets", "kits/",
            f"kits/{draft.pk}/", f"kits/{draft.pk}/text/", f"kits/{draft.pk}/by-hand/",
            f"points/{room.point.pk}/several/", f"visits/{visit.pk}/", f"visits/{visit.pk}/add/",
            "people/", f"people/{member.pk}/", f"people/{left.pk}/", "settings/",
            "settings/work/", "audit/",
            f"audit/?about=result:{result.pk}",
            "sets/", f"sets/{held.pk}/", "sets/new/", f"sets/{held.pk}/packing/",
            f"sets/{held.pk}/labels/", f"visits/{round_.pk}/", f"visits/{round_.pk}/end/",
            f"visits/{visit.pk}/report/", "entry/", f"entry/sheet/?set={held.pk}",
            f"entry/paste/?set={held.pk}", "on-this-device/", "visits/new/", "readings/",
            f"readings/{taken.pk}/",
        ]  # fmt: skip
        outside = [STYLE, "/programmes/", "/programmes/new/", "/account/", "/account/codes/",
                   "/join/"]  # fmt: skip
        return [*(room.url(path) for path in paths), *outside]

    def test_every_page_in_both_sizes(self) -> None:
        """No finding, no sideways scrolling, a title, one heading of the first rank, a way back.

        Every page by day and, in turn, in one of the other themes; in all three the page that holds
        every component.
        """
        paths = self.pages()
        page = self.sign_in(self.context(), self.room.people["manager"])
        for number, path in enumerate(paths):
            page.goto(self.base + path)
            themes = THEMES if path == STYLE else (THEMES[0], THEMES[1 + number % 2])
            for theme, width in views(page, themes):
                with self.subTest(path=path, theme=theme, width=width):
                    self.assertEqual(found_in(page, theme, width), [])
                    self.assertLessEqual(overflow(page), 0)
            with self.subTest(path=path):
                expect(page.locator("h1")).to_have_count(1)
                self.assertRegex(page.title(), ".+ · Kessa")
                expect(page.locator("a.brand, nav a").first).to_be_attached()

    def test_pages_before_the_sign_in(self) -> None:
        """Signed out, in three themes."""
        page = self.new_page(self.context())
        for path in ("/sign-in/", "/sign-in/forgotten/", "/join/"):
            page.goto(self.base + path)
            for theme in THEMES:
                with self.subTest(path=path, theme=theme):
                    self.assertEqual(found_in(page, theme), [])

    def test_a_password_can_be_shown(self) -> None:
        """And hidden again; the button says which."""
        page = self.new_page(self.context(PHONE))
        page.goto(self.base + "/sign-in/")
        field, show = page.get_by_label("Password"), page.get_by_role("button", name="Show")
        for kind, pressed in (("text", "true"), ("password", "false")):
            show.click()
            expect(field).to_have_attribute("type", kind)
            expect(show).to_have_attribute("aria-pressed", pressed)

    def test_wide_screens_and_zoom(self) -> None:
        """1920 pixels wide, and 200 % on a small laptop: nothing is cut off or scrolls sideways."""
        for size in ({"width": 1920, "height": 1080}, {"width": 640, "height": 400}):
            page = self.sign_in(self.context(size), self.room.people["manager"])
            result = self.room.finished()
            for path in ("today/", "log/", "review/", f"results/{result.pk}/", "people/"):
                page.goto(self.base + self.room.url(path))
                with self.subTest(path=path, width=size["width"]):
                    self.assertLessEqual(overflow(page), 0)

    def test_the_bench_on_a_tablet(self) -> None:
        """Between phone and desk no button runs out of its column under the tape."""
        bench = self.bench(self.sign_in(self.context({"width": 820, "height": 1180})))
        bench.press("1").steps("blank")
        edge = bench.page.locator(".step").bounding_box()
        for name in ("Add drop", "Undo", "End count", "Set"):
            with self.subTest(name=name):
                box = bench.page.get_by_role("button", name=name).first.bounding_box()
                self.assertLessEqual(box["x"] + box["width"], edge["x"] + edge["width"])
        self.assertLessEqual(overflow(bench.page), 0)

    def test_every_spot_of_the_bench(self) -> None:
        """Counting, reading, failed blank, finished, in three themes: each without a finding."""
        bench: BenchDriver = self.bench(self.sign_in(self.context()))
        for keys in (
            ["1"], ["n", "n", "n", "1", "Space", "Space", "Space"], ["e"], ["n"],
            ["n", "n", "n", "n", "1", "Space", "e", "n"],
            ["n", "n", "n", "n", "1", *["Space"] * 7, "e", "n"],
            ["n", "n", "n", "n", "1", *["Space"] * 8, "e", "n"],
        ):  # fmt: skip
            bench.press(*keys)
            title = bench.title.inner_text()
            for theme, width in views(bench.page):
                with self.subTest(title=title, theme=theme, width=width):
                    self.assertEqual(found_in(bench.page, theme, width), [])
                    self.assertLessEqual(overflow(bench.page), 0)

    def test_the_theme_stays(self) -> None:
        """One switch; the next page has it from the start."""
        page = self.sign_in(self.context())
        page.goto(self.base + self.room.url("today/"))
        switch = page.get_by_role("button", name="Theme")
        switch.click()
        page.keyboard.press("Space")
        self.assertEqual(page.evaluate("document.documentElement.dataset.theme"), "sunlight")
        switch.click()
        page.goto(self.base + self.room.url("log/"))
        self.assertEqual(page.evaluate("document.documentElement.dataset.theme"), "dark")
