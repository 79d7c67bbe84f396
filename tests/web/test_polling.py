"""Pages that stay open learn what another device changed."""

import re

from kessa.people.models import DeviceSession
from kessa.runs import services
from tests.builders.rooms import RoomTest

POLL = {"HTTP_HX_REQUEST": "true", "HTTP_X_KESSA_POLL": "yes"}


class Polling(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def address_of(self, page: str) -> str:
        """Where the page asks, with the code of what it shows."""
        return re.search(r'id="poll"\s+hx-get="([^"]+)"', page)[1]

    def opened(self, path: str) -> str:
        return self.address_of(self.client.get(self.room.url(path)).content.decode())

    def test_nothing_new_is_an_empty_answer(self) -> None:
        """204: the page stays as it is."""
        self.room.new_run()
        for path in ("today/", "bench/"):
            with self.subTest(path):
                self.assertEqual(self.client.get(self.opened(path), **POLL).status_code, 204)

    def test_a_test_opened_elsewhere_comes_in(self) -> None:
        """The lists are exchanged, nothing else; asked again, there is nothing new."""
        for path, part in (("today/", 'id="to-do"'), ("bench/", 'id="unfinished"')):
            with self.subTest(path):
                address = self.opened(path)
                self.room.new_run()
                answer = self.client.get(address, **POLL)
                self.assertContains(answer, f'{part} hx-swap-oob="true"')
                self.assertContains(answer, "Chloride")
                self.assertNotContains(answer, "<main")
                again = self.address_of(answer.content.decode())
                self.assertNotEqual(again, address)
                self.assertEqual(self.client.get(again, **POLL).status_code, 204)

    def test_a_result_and_a_hand_over_are_news(self) -> None:
        """What is out of its limit stands under "What changed"; a handed-over test moves."""
        address = self.opened("today/")
        self.room.finished((30, 30))
        self.assertContains(self.client.get(address, **POLL), 'id="what-changed"')
        run = self.room.new_run()
        address = self.opened("bench/")
        services.hand_over(run, self.room.monitor, self.room.people["manager"])
        self.assertContains(self.client.get(address, **POLL), "Tests of others")

    def test_asking_by_itself_is_no_use(self) -> None:
        """It does not put off the end of an idle sign-in, and then leads the page to sign in."""
        address = self.opened("today/")
        before = DeviceSession.objects.get()
        session = self.client.session
        seen = session.get("seen")
        self.client.get(address, **POLL)
        self.assertEqual(self.client.session.get("seen"), seen)
        self.assertEqual(DeviceSession.objects.get().seen_at, before.seen_at)
        self.client.logout()
        page = "http://testserver" + self.room.url("today/")
        answer = self.client.get(address, **POLL, HTTP_HX_CURRENT_URL=page)
        self.assertEqual(answer.headers["HX-Redirect"], "/sign-in/?next=" + self.room.url("today/"))
