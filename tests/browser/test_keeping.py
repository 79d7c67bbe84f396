"""Nothing tapped is lost, nothing counts twice: server killed, tab closed, another sign-in."""

import socket

from playwright.sync_api import expect

from kessa.bench.models import Event, Run
from kessa.log.services import state_of
from tests.browser.base import BenchDriver, BrowserTest
from tests.browser.server import Server


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


class ServerAway(BrowserTest):
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
        expect(page.locator("#sent")).to_have_text("4 kept here, no connection", timeout=8000)
        page.close()

        again = self.new_page(context)
        again.goto(url)
        reopened = BenchDriver(again, bench.run)
        expect(reopened.number).to_have_text("9")
        expect(again.locator("#sent")).to_contain_text("4 kept here", timeout=8000)
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
        expect(bench.page.locator("#r-figure")).to_have_text("62")
        expect(bench.page.get_by_text("In the log once it is sent.")).to_be_visible()
        self.server.start()
        bench.all_sent()
        bench.page.get_by_role("link", name="Open the result in the log").click()
        expect(bench.page.get_by_text("7, 8 drops: mean 7.5 × 8.3 = 62 mg/L as Cl")).to_be_visible()


class OtherSignIn(BrowserTest):
    def test_a_queue_is_never_sent_under_another_sign_in(self) -> None:
        """Signed out in the middle, somebody else signs in: the acts wait for their person."""
        context = self.context()
        bench = self.bench(self.sign_in(context))
        bench.press("1").steps("blank").all_sent()
        before = Event.objects.count()
        context.clear_cookies(name="sessionid")
        bench.press("Space")
        expect(bench.page.locator("#sent")).to_contain_text("sign in again", timeout=8000)
        self.sign_in(context, self.room.people["reviewer"]).close()
        bench.press("Space")
        expect(bench.page.locator("#sent")).to_contain_text("somebody else", timeout=15_000)
        self.assertEqual(Event.objects.count(), before)
        context.clear_cookies(name="sessionid")
        self.sign_in(context).close()
        bench.press("Space").all_sent()
        self.assertEqual(Event.objects.filter(act="drop", person=self.room.monitor).count(), 3)

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
