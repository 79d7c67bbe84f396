"""A timer that runs: what the device is asked for, what the person is told, and its alarm."""

import re

from playwright.sync_api import Page, expect

from tests.browser.base import PHONE, BenchDriver, BrowserTest, overflow

LISTEN = """window.asked = { tones: 0, silenced: 0, locks: 0, released: 0, notices: [] };
const create = AudioContext.prototype.createOscillator;
AudioContext.prototype.createOscillator = function () {
  asked.tones += 1;
  return create.call(this);
};
const disconnect = AudioNode.prototype.disconnect;
AudioNode.prototype.disconnect = function () {
  asked.silenced += 1;
  return disconnect.call(this);
};
const show = ServiceWorkerRegistration.prototype.showNotification;
ServiceWorkerRegistration.prototype.showNotification = function (title, more) {
  asked.notices.push(title + ": " + more.body);
  return show.call(this, title, more);
};"""
"""Notes what the page asks of its browser, which does it all the same."""
LOCKS = """navigator.wakeLock.request = async () => {
  asked.locks += 1;
  const lock = new EventTarget();
  lock.release = () => (asked.released += 1);
  return lock;
};"""
NO_LOCK = """navigator.wakeLock.request = async () => { throw new Error("low battery"); };"""
SLOW_ANSWER = """() => {
  const json = Response.prototype.json;
  Response.prototype.json = async function () {
    const answer = await json.call(this);
    await new Promise((go) => (asked.answer = go));
    return answer;
  };
}"""
"""An answer of the server is read when the test says so."""
BEHIND = """Object.defineProperty(document, "visibilityState", { get: () => "hidden" });"""


class Timer(BrowserTest):
    worker = True

    def wait(self, *scripts: str, permissions: tuple[str, ...] = (), off: str = "") -> BenchDriver:
        """A phone at a timer of the photometer's method."""
        context = self.context(PHONE, permissions=list(permissions))
        page = self.sign_in(context)
        for script in (LISTEN, *scripts):
            page.add_init_script(script)
        if off:
            page.add_init_script(f'localStorage.setItem("kessa-{off}", "off")')
        page.clock.install()
        return self.bench(page, "phosphate-photometer").go(until="wait")

    def asked(self, page: Page, what: str):
        return page.evaluate(f"asked.{what}")

    def wait_for(self, page: Page, condition: str) -> None:
        """Until this is true on the page. Asked from outside again and again: a page that polls
        for itself evaluates text, which its security policy refuses from the second time on."""
        for _ in range(300):
            if page.evaluate(condition):
                return
            page.wait_for_timeout(50)
        self.fail(f"It never came to be that {condition}.")

    def test_the_screen_stays_on_until_it_ends(self) -> None:
        """The device is asked once, and let go at the end; both are said."""
        bench = self.wait(LOCKS)
        page = bench.page
        expect(page.get_by_text("The screen stays on until the timer ends.")).to_be_visible()
        self.assertEqual((self.asked(page, "locks"), self.asked(page, "released")), (1, 0))
        self.assertEqual(overflow(page), 0)
        bench.wait_out()
        expect(page.locator("#clock-expect")).to_be_hidden()
        self.assertEqual((self.asked(page, "locks"), self.asked(page, "released")), (1, 1))

    def test_nobody_stays_for_a_day(self) -> None:
        """The screen may sleep until the last ten minutes; the page says where to see the time."""
        page = self.sign_in(self.context(PHONE))
        for script in (LISTEN, LOCKS):
            page.add_init_script(script)
        page.clock.install()
        bench = self.bench(page, "coliforms").go(until="wait")
        expect(page.get_by_text("You can close this page.")).to_be_visible()
        expect(page.get_by_text("between 24 h and 28 h, at 34.5 to 35.5 °C")).to_be_visible()
        self.assertEqual(self.asked(page, "locks"), 0)
        page.context.set_offline(True)  # the server's time would put the page's back
        page.clock.fast_forward((24 * 60 - 9) * 60 * 1000)
        expect(page.get_by_text("The screen stays on until the timer ends.")).to_be_visible()
        self.assertEqual(self.asked(page, "locks"), 1)
        bench.wait_out()
        expect(page.locator("#clock-expect")).to_be_hidden()

    def test_an_answer_that_took_the_night_says_nothing_of_the_time(self) -> None:
        """The device slept while it asked: half of that is not how far its clock is off."""
        page = self.sign_in(self.context(PHONE))
        for script in (LISTEN, LOCKS):
            page.add_init_script(script)
        page.clock.install()
        self.bench(page, "coliforms").go(until="wait")
        page.evaluate(SLOW_ANSWER)
        page.clock.fast_forward(20 * 1000)
        self.wait_for(page, "Boolean(asked.answer)")
        page.context.set_offline(True)
        page.clock.fast_forward((24 * 60 - 9) * 60 * 1000)
        page.evaluate("asked.answer()")
        expect(page.get_by_text("The screen stays on until the timer ends.")).to_be_visible()
        left = page.locator("#clock-time")
        expect(left).to_have_text(re.compile(r"^0:0[78]:\d\d$|^[78]:\d\d$"))

    def test_a_device_that_will_sleep_is_named(self) -> None:
        """Refused: the person is told what to do instead."""
        page = self.wait(NO_LOCK).page
        expect(page.get_by_text("This device may go to sleep and not ring.")).to_be_visible()
        expect(page.get_by_text("Keep the screen on, or set another timer.")).to_be_visible()

    def test_it_rings_for_a_minute_or_until_answered(self) -> None:
        """Six rings of three tones are planned with the timer; at its end they sound at once."""
        bench = self.wait(LOCKS)
        page = bench.page
        self.wait_for(page, "asked.tones >= 18")
        before = self.asked(page, "tones")
        bench.wait_out()
        self.wait_for(page, f"asked.tones === {before + 18}")
        bench.press("n")
        self.assertNotEqual(bench.spot, "wait")

    def test_an_endpoint_that_has_to_stay_rings_once(self) -> None:
        """Somebody watches it: one ring, the screen stays on, nothing is said beside the count."""
        page = self.sign_in(self.context(PHONE))
        for script in (LISTEN, LOCKS):
            page.add_init_script(script)
        page.clock.install()
        bench = self.bench(page, "inhibitor-reserve").go()
        bench.press("Space", "e")
        self.wait_for(page, "asked.tones >= 3")
        self.assertEqual(self.asked(page, "locks"), 1)
        expect(page.locator("#clock-expect")).to_be_hidden()
        page.clock.fast_forward(31_000)
        self.wait_for(page, "asked.tones === 6 && asked.released === 1")

    def test_without_sound_it_says_so(self) -> None:
        """Switched off on this device: no tone is made."""
        bench = self.wait(LOCKS, off="sound")
        expect(bench.page.get_by_text("Sound is off.")).to_be_visible()
        bench.wait_out()
        expect(bench.page.locator("#clock-expect")).to_be_hidden()
        self.assertEqual(self.asked(bench.page, "tones"), 0)

    def test_sound_switched_off_while_it_runs_stays_off(self) -> None:
        """What was planned is silenced, and nothing sounds at the end."""
        bench = self.wait(LOCKS)
        page = bench.page
        self.wait_for(page, "asked.tones >= 18")
        before = self.asked(page, "tones")
        page.get_by_text("Sound, vibration, notices, expert mode").click()
        page.get_by_label("Sound when to stop").uncheck()
        self.wait_for(page, "asked.silenced >= 1")
        bench.wait_out()
        expect(page.locator("#clock-expect")).to_be_hidden()
        self.assertEqual(self.asked(page, "tones"), before)

    def test_a_notice_where_it_was_allowed(self) -> None:
        """Behind another page, and only there, a notice names the step; else the page asks to stay
        in front."""
        bench = self.wait(LOCKS, BEHIND, permissions=("notifications",))
        page = bench.page
        expect(page.get_by_text("You get a notice if this page is not in front.")).to_be_visible()
        title = bench.title.inner_text()
        bench.wait_out()
        self.wait_for(page, "asked.notices.length === 1")
        self.assertEqual(self.asked(page, "notices"), [f"{title}: The timer has ended."])
        front = self.wait(LOCKS, permissions=("notifications",))
        front.wait_out()
        expect(front.page.locator("#clock-expect")).to_be_hidden()
        self.assertEqual(self.asked(front.page, "notices"), [])
        never = self.wait(LOCKS)
        expect(never.page.get_by_text("Keep this page in front.")).to_be_visible()
