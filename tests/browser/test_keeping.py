"""Nothing tapped is lost, nothing counts twice: server killed, tab closed, another sign-in."""

import socket

from django.test import override_settings
from playwright.sync_api import Error, expect

from kessa.flows.evaluating import state_of
from kessa.people.device_tokens import revoke
from kessa.people.models import DeviceToken
from kessa.results.models import Result
from kessa.runs.models import Event, Run
from tests.browser.base import PHONE, BenchDriver, BrowserTest
from tests.browser.server import Server


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


class ServerAway(BrowserTest):
    worker = True

    def setUp(self) -> None:
        super().setUp()
        self.server = Server(free_port())
        self.addCleanup(self.server.stop)
        self.server.start()
        self.base = self.server.address

    def test_killed_at_drop_five(self) -> None:
        """Server killed, four more drops, tab closed and opened, server back: nine drops, once
        each, with the times at which they were added."""
        context = self.context()
        bench = self.bench(self.sign_in(context))
        page, url = bench.page, bench.page.url
        expect(page.locator("#main[data-stored=yes]")).to_be_visible()
        bench.press("1").count(1, "blank").steps("sample").press(*["Space"] * 5).all_sent()
        self.server.kill()
        bench.press(*["Space"] * 4)
        expect(bench.number).to_have_text("9")
        expect(page.locator("#sent")).to_have_text("4 saved here, no connection", timeout=8000)
        page.close()

        again = self.new_page(context)
        again.goto(url)
        reopened = BenchDriver(again, bench.run)
        expect(reopened.number).to_have_text("9")
        expect(again.locator("#sent")).to_contain_text("4 saved here", timeout=8000)
        self.server.start()
        reopened.all_sent()

        state = state_of(Run.objects.get(pk=bench.run))
        self.assertEqual(state.current.count, 9)
        drops = Event.objects.filter(run_id=bench.run, act="drop").order_by("lamport")
        self.assertEqual(drops.count(), 10)
        moments = [event.as_core().when for event in drops]
        self.assertEqual(moments, sorted(moments))
        late = [
            event
            for event in drops
            if (event.received_at - event.as_core().when).total_seconds() > 0.5
        ]
        self.assertGreaterEqual(len(late), 4)

    def test_a_finished_run_waits_with_its_result(self) -> None:
        """Without the server the sheet's own rows say the result; it arrives later, the same."""
        bench = self.bench(self.sign_in(self.context()))
        bench.press("1").count(1, "blank").all_sent()
        self.server.kill()
        bench.count(7).count(8)
        expect(bench.page.locator(".r-figure")).to_have_text("58")
        expect(bench.page.get_by_text("In the log once it is sent.")).to_be_visible()
        self.server.start()
        bench.all_sent()
        bench.page.get_by_role("link", name="Open the result in the log").click()
        expect(
            bench.page.get_by_text("7, 8 drops: (mean 7.5 − ½) × 8.3 = 58 mg/L as Cl")
        ).to_be_visible()


SLOW = """const patience = AbortSignal.timeout.bind(AbortSignal);
AbortSignal.timeout = (ms) => patience(ms / 10);
const ask = window.fetch;
window.fetch = async (address, how) => {
  const acts = String(how?.body).startsWith('{"events":[{');
  if (acts) await new Promise((resolve) => setTimeout(resolve, 2200));
  return ask(address, how);
};"""
"""A page that waits a tenth as long (1.5 s at first), and acts that are 2.2 s on their way."""


class SlowConnection(BrowserTest):
    def test_a_page_waits_longer_for_a_slow_connection(self) -> None:
        """No answer comes in the time that is allowed at first; nor would it ever, if the page
        did not allow more each time."""
        page = self.sign_in(self.context())
        page.add_init_script(SLOW)
        bench = self.bench(page).press("1")
        expect(page.locator("#sent")).to_have_text("1 saved here, no connection")
        self.assertEqual(Event.objects.count(), 0)
        bench.all_sent()
        self.assertEqual(Event.objects.count(), 1)


class OtherSignIn(BrowserTest):
    worker = True

    def test_a_queue_is_never_sent_under_another_sign_in(self) -> None:
        """The sign-in expires with thirty acts kept; somebody else signs in; they arrive for the
        first person, by the device's own permission, and none under the second."""
        context = self.context()
        bench = self.bench(self.sign_in(context))
        expect(bench.page.locator("#main[data-capable=ok]")).to_be_attached()
        context.set_offline(True)
        bench.press("1").steps("blank").press("Space")
        for _ in range(12):
            bench.press("Space", "Backspace")
        expect(bench.page.locator("#sent")).to_contain_text("no connection")
        self.assertEqual(Event.objects.count(), 0)
        context.clear_cookies(name="sessionid")
        self.sign_in(context, self.room.people["reviewer"]).close()
        context.set_offline(False)
        bench.all_sent()
        self.assertEqual(Event.objects.count(), 30)
        self.assertEqual(
            set(Event.objects.values_list("person", flat=True)), {self.room.monitor.pk}
        )

    def test_without_the_permission_the_acts_wait_for_their_person(self) -> None:
        """Revoked: told "sign in again", then "somebody else's"; nothing moves until the person is
        back."""
        context = self.context()
        bench = self.bench(self.sign_in(context))
        expect(bench.page.locator("#main[data-capable=ok]")).to_be_attached()
        bench.press("1").steps("blank").all_sent()
        before = Event.objects.count()
        revoke(DeviceToken.objects.get(), self.room.monitor)
        context.clear_cookies(name="sessionid")
        bench.press("Space")
        expect(bench.page.locator("#sent")).to_contain_text("sign in again", timeout=8000)
        self.sign_in(context, self.room.people["reviewer"]).close()
        bench.press("Space")
        expect(bench.page.locator("#sent")).to_contain_text("another person", timeout=15_000)
        self.assertEqual(Event.objects.count(), before)
        context.clear_cookies(name="sessionid")
        self.sign_in(context).close()
        bench.press("Space").all_sent()
        self.assertEqual(Event.objects.filter(act="drop", person=self.room.monitor).count(), 3)

    def test_acts_left_behind_are_sent_from_any_page(self) -> None:
        """The bench is closed and its person signed out; whoever opens Today sends them."""
        context = self.context()
        bench = self.bench(self.sign_in(context))
        expect(bench.page.locator("#main[data-capable=ok]")).to_be_attached()
        context.set_offline(True)
        bench.press("1")
        expect(bench.page.locator("#sent")).to_contain_text("no connection")
        bench.page.close()
        context.clear_cookies(name="sessionid")
        context.set_offline(False)
        page = self.sign_in(context, self.room.people["viewer"])
        with page.expect_response("**/append/") as sent:
            page.goto(self.base + self.room.url("today/"))
        self.assertEqual(sent.value.status, 200)
        self.assertEqual(Event.objects.get().person, self.room.monitor)

    def test_who_signs_out_leaves_no_bench_page(self) -> None:
        """It opens without a network while its person is signed in, and no longer afterwards."""
        context = self.context()
        bench = self.bench(self.sign_in(context))
        page, address = bench.page, bench.page.url
        expect(page.locator("#main[data-stored=yes]")).to_be_attached()
        context.set_offline(True)
        page.goto(address)
        bench.ready()
        context.set_offline(False)
        page.locator("header details.dropdown summary").click()
        page.get_by_role("button", name="Sign out").click()
        expect(page.get_by_label("Password")).to_be_visible()
        context.set_offline(True)
        with self.assertRaisesRegex(Error, "ERR_INTERNET_DISCONNECTED|ERR_FAILED"):
            page.goto(address)

    def test_signing_out_with_unsent_work_asks_first(self) -> None:
        """No: nothing happens. Yes: signed out, and the action arrives under the same name."""
        context = self.context()
        bench = self.bench(self.sign_in(context))
        page = bench.page
        page.route("**/events/", lambda route: route.abort())
        bench.press("1")
        expect(page.locator("#sent")).to_contain_text("saved here", timeout=8000)
        for answer in ("dismiss", "accept"):
            page.once("dialog", lambda dialog, answer=answer: getattr(dialog, answer)())
            page.locator("header details.dropdown summary").click()
            with page.expect_event("dialog"):
                page.get_by_role("button", name="Sign out").click()
            if answer == "dismiss":
                expect(bench.title).to_be_visible()
                page.keyboard.press("Escape")
                page.reload()
                bench.ready()
        expect(page.get_by_label("Password")).to_be_visible()
        for _ in range(50):
            if Event.objects.filter(run_id=bench.run).exists():
                break
            page.wait_for_timeout(200)
        self.assertEqual(Event.objects.get(run_id=bench.run).person, self.room.monitor)

    def test_two_tabs_of_one_run_agree(self) -> None:
        """A drop added in one tab is counted in the other."""
        context = self.context()
        bench = self.bench(self.sign_in(context))
        bench.press("1").steps("blank").all_sent()
        page = self.new_page(context)
        page.goto(bench.page.url)
        other = BenchDriver(page, bench.run)
        bench.press("Space")
        expect(other.number).to_have_text("1")
        other.press("Space")
        expect(bench.number).to_have_text("2")
        bench.all_sent()
        self.assertEqual(bench.digest(), other.digest())


class Devices(BrowserTest):
    worker = True

    def test_a_determination_is_handed_over(self) -> None:
        """The second device waits; it takes over; the first is told that its acts do not count."""
        first = self.bench(self.sign_in(self.context()))
        first.press("1").steps("blank").press("Space").all_sent()
        page = self.sign_in(self.context(PHONE))
        page.goto(first.page.url)
        second = BenchDriver(page, first.run)
        expect(second.title).to_have_text("Another device is doing this measurement")
        second.press("Space")
        first.page.context.set_offline(True)
        first.press("Space", "Space")
        second.click("Take over here").press("Space").all_sent()
        first.page.context.set_offline(False)
        first.all_sent()
        expect(first.page.locator("#counted-out")).to_contain_text("Not counted")
        first.page.evaluate("document.getElementById('main').kessa.pull()")
        expect(first.title).to_have_text("Another device is doing this measurement")
        second.press("e", "n").all_sent()
        first.page.evaluate("document.getElementById('main').kessa.pull()")
        expect(first.title).to_have_text(second.title.inner_text())
        self.assertEqual(first.digest(), second.digest())

    def test_a_refused_act_is_told_and_does_not_count(self) -> None:
        """An act that the server will not have: the reason is read, then it is put away."""
        bench = self.bench(self.sign_in(self.context()))
        bench.press("1").all_sent()
        bench.page.evaluate(
            "document.getElementById('main').kessa.act('tick', {step: 'x'.repeat(600)})"
        )
        expect(bench.page.locator("#refused")).to_contain_text("data.step must be a short text")
        bench.page.reload()
        bench.ready()
        expect(bench.page.locator("#refused")).to_be_visible()
        bench.click("Dismiss message")
        expect(bench.page.locator("#refused")).to_be_hidden()

    def test_the_person_is_told_when_the_server_says_otherwise(self) -> None:
        """The limits were changed after the page had its sheet: both verdicts are kept."""
        bench = self.bench()
        bench.press("1").count(1, "blank").count(15)
        self.room.set_limits("epa-freshwater")
        bench.count(14).all_sent()
        expect(bench.page.locator("#shown")).to_contain_text("Both are saved")
        expect(bench.page.locator(".r-sign")).to_contain_text("within")
        result = Result.objects.get()
        self.assertEqual((result.outcome_code, result.current.shown["s"]), ("within", "close"))

    def test_a_new_release_does_not_take_over_an_open_run(self) -> None:
        """The page that began the run stays until it has ended; the next run has the new one."""
        context = self.context()
        with override_settings(RELEASE="old"):
            bench = self.bench(self.sign_in(context))
            expect(bench.page.locator("#main[data-stored=yes]")).to_be_attached()
            bench.press("1").count(1, "blank").all_sent()
        release = bench.page.locator("#main").get_attribute
        with override_settings(RELEASE="new"):
            bench.page.reload()
            bench.ready()
            self.assertEqual(release("data-release"), "old")
            bench.count(7).count(8).all_sent()
            expect(
                bench.page.get_by_role("link", name="Open the result in the log")
            ).to_be_visible()
            bench.page.reload()
            bench.ready()
            self.assertEqual(release("data-release"), "new")
            expect(bench.page.locator(".r-figure")).to_have_text("58")
