"""A visit of several tests: by one thumb to its first, one in the wait of another, two devices."""

import re
from datetime import UTC, datetime, timedelta

import time_machine
from playwright.sync_api import Page, expect

from kessa.flows.evaluating import state_of
from kessa.runs.models import Run
from tests.browser.base import PHONE, BenchDriver, BrowserTest, axe, overflow

TESTS = (
    "chloride-drops-15ml", "phosphate-strip", "nitrate-tablets", "ph-strips", "conductivity-meter",
    "hardness-strip",
)  # fmt: skip


class Visits(BrowserTest):
    def fine(self, page: Page) -> None:
        """Nothing that axe finds, and nothing wider than its window."""
        self.assertEqual((axe(page), overflow(page)), ([], 0))

    def visit(self, page: Page, *methods: str) -> str:
        """The page of a visit with these tests; its address."""
        made = self.room.new_visit(*methods)
        page.goto(self.base + self.room.url(f"visits/{made.pk}/"))
        return page.url

    def test_by_one_thumb_to_the_first_test(self) -> None:
        """The same six tests as last time: at most ten taps before the first of them."""
        page = self.sign_in(self.context(PHONE))
        self.room.new_visit(*TESTS)
        page.goto(self.base + self.room.url(f"points/{self.room.point.pk}/"))
        taps = 0

        def tap(role: str, name: str | re.Pattern[str]) -> None:
            nonlocal taps
            taps += 1
            page.get_by_role(role, name=name).first.click()

        page.locator("summary").filter(has_text="Start test").click()
        taps += 1
        tap("link", "Several tests from one sample")
        self.fine(page)
        expect(page.get_by_role("checkbox", checked=True)).to_have_count(len(TESTS))
        tap("button", "Start")
        tap("button", "Yes, it is safe")
        tap("radio", "rain")
        page.get_by_role("radio", name="dry").check()
        taps += 1
        tap("button", "Next: take the sample")
        tap("button", "Save sample and start 6 tests")
        page.wait_for_url("**/visits/*/")
        self.fine(page)
        tap("link", re.compile("^Go to"))
        BenchDriver(page).ready()
        self.assertLessEqual(taps, 10)

    def test_a_device_three_hours_fast(self) -> None:
        """A wait that runs is counted down by the server's clock, not over for hours."""
        page = self.sign_in(self.context())
        page.clock.install(time=datetime.now(UTC) + timedelta(hours=3))
        visit = self.visit(page, TESTS[1], "conductivity-meter")
        page.get_by_role("link", name="Phosphate, strip").last.click()
        BenchDriver(page).go(until="wait").all_sent()
        page.goto(visit)
        timer = page.locator("#board").get_by_role("timer")
        expect(timer).to_have_text(re.compile(r"^\d:\d\d$"), timeout=30_000)

    def test_one_test_in_the_wait_of_another(self) -> None:
        """The strip waits: the bench sends the person to the meter, whose bench counts the strip's
        clock. A result stands on the visit's page."""
        page = self.sign_in(self.context())
        visit = self.visit(page, TESTS[0], TESTS[1], "conductivity-meter")
        page.get_by_role("link", name="Phosphate, strip").last.click()
        bench = BenchDriver(page).go(until="wait")
        bench.all_sent()
        chip = page.get_by_role("navigation", name="Visit")
        chip.get_by_role("link", name="Now: Conductivity, meter").click()
        BenchDriver(page).ready()
        expect(page.locator("#eyebrow")).to_contain_text("Conductivity")
        clock = page.get_by_role("navigation", name="Clocks").get_by_role("timer")
        expect(clock).to_have_text(re.compile(r"^\d:\d\d$"))
        self.fine(page)
        page.goto(visit)
        page.get_by_role("link", name="Chloride, 15 mL").last.click()
        BenchDriver(page).through(7, 8).all_sent()
        page.goto(visit)
        row = page.get_by_role("listitem").filter(has_text="Chloride, 15 mL")
        expect(row).to_contain_text("58 mg/L")
        expect(page.get_by_text("1 of 3 tests done")).to_be_visible()
        expect(page.get_by_role("heading", level=2).first).not_to_have_text("All tests are done")
        self.fine(page)

    def test_two_devices_on_one_visit(self) -> None:
        """What one does, the other's page of the visit shows without being touched."""
        page = self.sign_in(self.context())
        address = self.visit(page, *TESTS[:2])
        other = self.sign_in(self.context(PHONE), self.room.people["reviewer"])
        other.goto(address)
        expect(other.get_by_text("No clock is running.")).to_be_visible()
        page.get_by_role("link", name="Phosphate, strip").last.click()
        BenchDriver(page).go(until="wait").all_sent()
        expect(other.get_by_role("timer")).to_be_visible()
        self.fine(other)


HEARD = """window.heard = [];
const oscillator = AudioContext.prototype.createOscillator;
AudioContext.prototype.createOscillator = function () {
  const made = oscillator.call(this);
  heard.push(made);
  return made;
};"""
"""Keeps every tone that the page plans."""


NOON = datetime(2026, 11, 19, 12, 0, tzinfo=UTC)


class Clocks(BrowserTest):
    """Several at once, on every page of the device."""

    def kept(self, page: Page, *clocks: tuple[str, int, int | None]) -> None:
        """Clocks that run on this device: name, seconds to their end, and to the last moment that
        counts."""
        page.evaluate(
            """(clocks) => localStorage.setItem("kessa-clocks", JSON.stringify(
              clocks.map(([short, due, until], tune) => ({
                run: short, short, title: "Wait", due: Date.now() + due * 1000,
                until: until === null ? null : Date.now() + until * 1000,
                look: false, address: "/", shape: `M${tune} 0 L20 20 H0 Z`, tune,
              }))))""",
            [list(one) for one in clocks],
        )

    def stand_still(self, page: Page, path: str) -> None:
        """A page whose time goes on only when the test says so."""
        page.clock.install(time=NOON)
        page.goto(self.base + self.room.url(path))
        page.clock.pause_at(NOON + timedelta(minutes=5))

    def test_four_that_end_within_ten_seconds(self) -> None:
        """Each with its name, its shape and its sound, planned ahead once the page was touched;
        after their end each says for how long it has been over."""
        page = self.sign_in(self.context(PHONE))
        page.add_init_script(HEARD)
        self.stand_still(page, "log/")
        names = ("Phosphate", "Nitrate", "pH", "Iron")
        self.kept(page, *[(name, 20 + 3 * n, None) for n, name in enumerate(names)])
        page.locator("h1").click()
        strip = page.get_by_role("navigation", name="Clocks")
        page.clock.run_for(1000)
        for name in names:
            expect(strip.get_by_role("link", name=re.compile(name))).to_be_visible()
        shapes = strip.locator("path").evaluate_all("all => all.map(p => p.getAttribute('d'))")
        self.assertEqual(len(set(shapes)), 4)
        page.clock.run_for(1000)
        tunes = page.evaluate("heard.map(tone => tone.frequency.value)")
        self.assertEqual(set(tunes), {880, 587, 1047, 784, 523})
        page.clock.fast_forward(60_000)
        over = strip.get_by_role("timer")
        expect(over).to_have_text(["0:42 over", "0:39 over", "0:36 over", "0:33 over"])
        page.clock.resume()
        self.assertEqual((axe(page), overflow(page)), ([], 0))

    def test_too_late_is_said(self) -> None:
        """Past the last moment that counts."""
        page = self.sign_in(self.context())
        self.stand_still(page, "today/")
        self.kept(page, ("Strip", -90, -30), ("Tube", 40, None))
        page.clock.run_for(1000)
        times = page.get_by_role("navigation", name="Clocks").get_by_role("timer")
        expect(times).to_have_text(["0:31 late", "0:39"])

    def test_from_the_bench_to_every_page_and_no_further(self) -> None:
        """A wait that begins is counted on other pages, also after a reload; who signs out leaves
        none; when the person goes on it is gone."""
        page = self.sign_in(self.context())
        page.clock.install()
        bench = self.bench(page, "phosphate-strip").go(until="wait")
        expect(page.get_by_role("navigation", name="Clocks")).to_be_hidden()
        address = page.url
        bench.all_sent()
        page.goto(self.base + self.room.url("log/"))
        link = page.get_by_role("navigation", name="Clocks").get_by_role("link")
        expect(link).to_contain_text("Phosphate, strip")
        page.reload()
        link.click()
        expect(page).to_have_url(address)
        bench.ready().wait_out().press("n").all_sent()
        page.goto(self.base + self.room.url("log/"))
        expect(page.get_by_role("navigation", name="Clocks")).to_be_hidden()

    def left(self, page: Page) -> int:
        """Seconds that the clock at hand still has to run."""
        minutes, seconds = page.locator("#clock-time").inner_text().split(":")
        return 60 * int(minutes) + int(seconds)

    def test_a_device_clock_that_jumps_during_a_wait(self) -> None:
        """Three hours on, with a network; three hours back, without: the clock counts on as if
        nothing had happened, nothing is late, the acts have their true times."""
        page = self.sign_in(self.context())
        page.clock.install()
        bench = self.bench(page, "phosphate-strip").go(until="wait").all_sent()
        before, now = self.left(page), datetime.now(UTC)
        page.clock.set_system_time(now + timedelta(hours=3))
        page.wait_for_timeout(2000)
        self.assertLessEqual(self.left(page), before)
        self.assertGreater(self.left(page), before - 40)
        bench.press("o").all_sent()
        page.context.set_offline(True)
        page.clock.set_system_time(datetime.now(UTC))
        page.clock.run_for(1000)
        expect(page.locator("#clock-says")).to_have_text("left")
        self.assertGreater(self.left(page), before - 60)
        bench.wait_out().press("n")
        page.context.set_offline(False)
        bench.all_sent()
        run = Run.objects.get(pk=bench.run)
        state = state_of(run)
        self.assertEqual(state.stage.flags, [])
        [waited] = state.current.waits
        self.assertLess(abs(waited.seconds - waited.least), 15)

    def test_a_phone_that_slept_through_a_wait(self) -> None:
        """The page stood still and its own clock with it: what is over is said, and by how much;
        the wait is kept with the time it took and flagged as late."""
        page = self.sign_in(self.context(PHONE))
        page.clock.install()
        bench = self.bench(page, "phosphate-strip").go(until="wait").all_sent()
        left = self.left(page)
        slept = timedelta(seconds=left + 600)
        page.context.set_offline(True)
        page.clock.fast_forward(int(slept.total_seconds()) * 1000)
        page.evaluate(
            """(ms) => { const own = performance.now.bind(performance);
                performance.now = () => own() - ms; }""",
            slept.total_seconds() * 1000,
        )
        with time_machine.travel(datetime.now(UTC) + slept):
            page.context.set_offline(False)
            expect(page.locator("#clock-says")).to_have_text("too late by")
            bench.press("n").all_sent()
        state = state_of(Run.objects.get(pk=bench.run))
        [waited] = state.current.waits
        self.assertGreater(waited.seconds, left + 590)
        self.assertTrue(any("due by" in flag for flag in state.stage.flags))
