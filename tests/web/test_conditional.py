"""What is refused because something else happened meanwhile, or somebody else would speak."""

from dataclasses import replace
from datetime import timedelta

from django.test import Client, TestCase
from django.utils import timezone

from kessa.flows.receiving import REVIEWED, keep
from kessa.flows.reviewing import decide
from kessa.flows.testing import take_and_open
from kessa.people.device_tokens import allow, of_token
from kessa.people.members import invite, join
from kessa.people.models import AttemptCount
from kessa.people.passwords import make_code, use_code
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Membership
from kessa.results.models import Review
from kessa.runs.models import Event, Run
from kessa.runs.services import FURTHEST_AHEAD
from tests.builders.people import PASSWORD, Room
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps

NEW = "slate-and-kettle-again"


class Acts(RoomTest):
    def test_a_counter_that_runs_far_ahead_is_refused_and_the_run_goes_on(self) -> None:
        """Just so far ahead is taken; one more is not, and the next act of a colleague is."""
        run = self.room.new_run()
        taps = Taps(run=str(run.pk)).before().count(1, "blank")
        keep(self.room.programme, self.room.monitor, [e.as_json() for e in taps.events])
        last = max(event.lamport for event in taps.events)
        note = replace(taps.events[0], act="note", data={"words": "x"}, device="device-colleague")
        for number, (ahead, taken) in enumerate(
            ((FURTHEST_AHEAD + 1, False), (2**53 - 1 - last, False), (FURTHEST_AHEAD, True))
        ):
            event = replace(note, id=f"far-ahead-{number}", lamport=last + ahead, seq=number + 1)
            received = keep(self.room.programme, self.room.people["reviewer"], [event.as_json()])
            with self.subTest(ahead=ahead):
                self.assertEqual(received.kept == [event.id], taken)
                self.assertEqual(bool(received.refused), not taken)
        more = Taps(run=str(run.pk)).before().count(1, "blank").count(7)
        sent = [replace(e, lamport=e.lamport + last + FURTHEST_AHEAD) for e in more.events]
        received = keep(
            self.room.programme, self.room.monitor, [e.as_json() for e in sent[len(taps.events) :]]
        )
        self.assertEqual(received.refused, [])

    def test_a_device_is_one_persons(self) -> None:
        """An act under a colleague's device name is refused; under one's own it is kept."""
        run = self.room.new_run()
        taps = Taps(run=str(run.pk)).before().count(1, "blank")
        keep(self.room.programme, self.room.monitor, [e.as_json() for e in taps.events])
        drop = taps.act("drop").events[-1]
        other = self.room.people["reviewer"]
        received = keep(self.room.programme, other, [drop.as_json()])
        self.assertIn("another person", received.refused[0]["reason"])
        own = replace(drop, device="device-of-the-reviewer")
        self.assertEqual(keep(self.room.programme, other, [own.as_json()]).kept, [own.id])

    def test_a_reviewed_run_takes_no_act(self) -> None:
        """What was kept before is named as kept again; nothing new is."""
        result = self.room.finished()
        reviewer = self.room.people["reviewer"]
        decide(result, reviewer, "accept", "", result.current_id)
        before = [e.as_core().as_json() for e in Event.objects.filter(run=result.run)]
        late = before[-1] | {"id": "late-drop", "act": "undo", "data": {"event": before[-1]["id"]}}
        late |= {"lamport": before[-1]["lamport"] + 1, "seq": before[-1]["seq"] + 1}
        received = keep(self.room.programme, self.room.monitor, [*before, late])
        self.assertEqual(received.kept, [one["id"] for one in before])
        self.assertEqual(received.refused, [{"id": "late-drop", "reason": REVIEWED}])
        result.refresh_from_db()
        self.assertEqual(result.status, "reviewed")

    def test_the_same_id_in_two_runs(self) -> None:
        """The first run has it, the second is told; nothing breaks."""
        first, second = self.room.new_run(), self.room.new_run()
        events = [
            Taps(run=str(run.pk)).before().events[0].as_json() | {"id": "doubled-id"}
            for run in (first, second)
        ]
        received = keep(self.room.programme, self.room.monitor, events)
        self.assertEqual(received.kept, ["doubled-id"])
        self.assertEqual(received.refused[0]["reason"], "This id belongs to another action.")


class Decisions(RoomTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.result = cls.room.finished()

    def test_a_stale_page_does_not_undo_a_decision(self) -> None:
        """Two reviewers opened the page; one accepted, the other rejects what is accepted."""
        self.client.force_login(self.room.people["reviewer"])
        page = self.client.get(self.room.url(f"review/?result={self.result.pk}"))
        self.assertContains(page, 'name="last" value="0"')
        stale = {"evaluation": self.result.current_id, "last": "0", "reason": "too high"}
        decide(self.result, self.room.people["manager"], "accept", "", self.result.current_id)
        answer = self.client.post(
            self.room.url(f"review/{self.result.pk}/"), stale | {"decision": "reject"}
        )
        self.assertContains(answer, "Another person has reviewed it", status_code=422)
        self.assertContains(answer, "too high", status_code=422)
        self.result.refresh_from_db()
        self.assertEqual(self.result.status, "reviewed")
        fresh = stale | {"decision": "reject", "last": Review.objects.get().pk}
        self.client.post(self.room.url(f"review/{self.result.pk}/"), fresh)
        self.result.refresh_from_db()
        self.assertEqual(self.result.status, "rejected")

    def test_a_sample_that_is_sent_twice_begins_one_test(self) -> None:
        """The second time leads to the same run."""
        sample = self.room.new_run().sample
        sample.refresh_from_db()
        again = take_and_open(sample, self.room.monitor, timezone.now(), "UTC")
        self.assertEqual(Run.objects.get(sample=sample), again)


class Accounts(TestCase):
    def setUp(self) -> None:
        self.room, self.other = Room(), Room("south-room")
        self.person = self.room.monitor
        self.client = Client()

    def sign_in(self, password: str, client: Client | None = None, name: str = "", place: str = ""):
        said = {"username": name or self.person.username, "password": password}
        more = {"REMOTE_ADDR": place} if place else {}
        return (client or self.client).post("/sign-in/", said, **more)

    def test_a_code_is_void_once_its_person_belongs_elsewhere(self) -> None:
        """A manager of one programme does not open an account that reaches into another."""
        manager = self.room.people["manager"]
        member = Membership.objects.get(person=self.person)
        code = make_code(self.room.programme, manager, member)
        made, _ = invite(self.other.programme, self.other.people["manager"], "viewer")
        join(made, self.person)
        with self.assertRaisesMessage(ActionNotAllowed, "is wrong"):
            use_code(self.person.username, code, NEW)
        self.assertTrue(self.person.check_password(PASSWORD))

    def test_permissions_to_send_end_with_the_password(self) -> None:
        """Changed by the person, set with a code, or the account closed."""
        visit = self.room.new_run().sample.visit
        manager = self.room.people["manager"]
        member = Membership.objects.get(person=self.person)

        def changed() -> None:
            self.client.force_login(self.person)
            self.client.post("/account/password/", {"old": PASSWORD, "new": NEW})

        def reset() -> None:
            use_code(
                self.person.username, make_code(self.room.programme, manager, member), NEW + "!"
            )

        def closed() -> None:
            self.person.is_active = False
            self.person.save()

        for end in (changed, reset, closed):
            token, _ = allow(visit, self.person, "device-1", "tablet")
            self.assertIsNotNone(of_token(token))
            end()
            self.person.refresh_from_db()
            with self.subTest(end=end.__name__):
                self.assertIsNone(of_token(token))

    def test_a_name_counts_however_it_is_typed(self) -> None:
        """Wide letters and capitals are the same account."""
        wide = "".join(chr(ord(c) + 0xFEE0) if "!" <= c <= "~" else c for c in self.person.username)
        for number in range(10):
            self.sign_in("wrong", name=(wide, self.person.username.upper())[number % 2])
        self.assertEqual(self.sign_in(PASSWORD).status_code, 429)

    def test_nobody_is_locked_out_of_a_browser_they_use(self) -> None:
        """Guessing elsewhere, from many addresses, ends at its own limits."""
        self.assertEqual(self.sign_in(PASSWORD).status_code, 302)
        self.client.post("/sign-out/")
        for number in range(100):
            self.sign_in("wrong", Client(), place=f"10.0.0.{number}")
        stranger = self.sign_in(PASSWORD, Client(), place="10.0.1.1")
        self.assertEqual(stranger.status_code, 429)
        self.assertEqual(self.sign_in(PASSWORD, place="10.0.1.2").status_code, 302)
        self.client.post("/sign-out/")
        for _ in range(10):
            self.sign_in("wrong", place="10.0.1.2")
        self.assertEqual(self.sign_in(PASSWORD, place="10.0.1.2").status_code, 429)

    def test_another_account_is_not_known_by_that_browser(self) -> None:
        self.sign_in(PASSWORD)
        self.client.post("/sign-out/")
        viewer = self.room.people["viewer"].username
        for _ in range(10):
            self.sign_in("wrong", name=viewer)
        self.assertEqual(self.sign_in(PASSWORD, name=viewer).status_code, 429)
        self.assertEqual(self.sign_in(PASSWORD).status_code, 302)

    def test_where_to_go_next(self) -> None:
        """A word that is no address leads home, never to an error."""
        for wanted in ("foo", "today", "javascript:alert(1)", "//elsewhere.example/", "\x00", " "):
            client = Client()
            said = {"username": self.person.username, "password": PASSWORD, "next": wanted}
            with self.subTest(wanted):
                self.assertEqual(client.post("/sign-in/", said).headers["Location"], "/")

    def test_the_first_days_of_the_calendar(self) -> None:
        """No page breaks on a day that no clock shows."""
        self.client.force_login(self.room.people["manager"])
        for path in (
            "log/?first=0001-01-01", "log/?last=0001-01-01", "log/?last=9999-12-31",
            "log.csv?first=0001-01-01&last=9999-12-31", "search/?q=0001-01-01",
        ):  # fmt: skip
            with self.subTest(path):
                answer = self.client.get(self.room.url(path))
                body = b"".join(answer) if answer.streaming else answer.content
                self.assertLess(answer.status_code, 500, body[:200])
        sample = self.room.new_sample()
        typed = {"at": "0001-01-01T00:00", "opened": "0001-01-01", "expires": "0001-01-01"}
        typed |= {
            "reagent": "silver nitrate",
            "number": "L",
            "why": "x",
            "limits_from": "0001-01-01",
        }
        typed |= {"limit_set": "", "name": "Beck", "kind": "stream", "point": self.room.point.pk}
        result = self.room.finished()
        for path in (
            "library/lots/new/", f"waters/{self.room.water.pk}/change/",
            f"results/{result.pk}/correct-sample/", f"samples/{sample.pk}/sample/",
        ):  # fmt: skip
            with self.subTest(path):
                self.assertLess(self.client.post(self.room.url(path), typed).status_code, 500)

    def test_the_window_ends(self) -> None:
        """After a quarter of an hour the count begins anew."""
        for _ in range(11):
            self.sign_in("wrong")
        AttemptCount.objects.update(until=timezone.now() - timedelta(seconds=1))
        self.assertEqual(self.sign_in(PASSWORD).status_code, 302)
