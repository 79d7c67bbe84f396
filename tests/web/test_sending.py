"""Sending: a device's capability, limits, what other devices sent, what the page showed."""

import json
from datetime import timedelta
from unittest.mock import patch

from django.test import Client
from django.utils import timezone

from kessa.people.device_tokens import allow, revoke
from kessa.people.members import withdraw
from kessa.people.models import DeviceToken
from kessa.platform.models import Membership
from kessa.results.models import Result
from kessa.runs.models import Event
from tests.builders.people import Room
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps, small


class Sending(RoomTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.run_ = cls.room.new_run()
        cls.visit = cls.run_.sample.visit

    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def taps(self, **more) -> Taps:
        return Taps(run=str(self.run_.pk), **more)

    def send(self, events, url: str = "", client: Client | None = None, **more):
        sent = [event if isinstance(event, dict) else event.as_json() for event in events]
        headers = more.pop("headers", {})
        return (client or self.client).post(
            url or self.room.url("events/"),
            json.dumps({"events": sent, **more}),
            content_type="application/json",
            headers=headers,
        )

    def append(self, token: str, events, client: Client | None = None):
        headers = {"Authorization": f"Kessa-Append {token}"}
        return self.send(events, "/append/", client or Client(), headers=headers)


class Capabilities(Sending):
    def token(self) -> str:
        answer = self.client.post(
            self.room.url(f"bench/{self.run_.pk}/capability/"),
            json.dumps({"device": "device-1"}),
            content_type="application/json",
        )
        return answer.json()["token"]

    def test_acts_arrive_without_a_sign_in_for_the_first_person(self) -> None:
        """Under nobody's and under somebody else's sign-in alike; a CSRF token is not asked."""
        token = self.token()
        taps = self.taps().before().count(1, "blank").count(7).count(8)
        other = Client(enforce_csrf_checks=True)
        other.force_login(self.room.people["reviewer"])
        for client, events in ((Client(), taps.events[:9]), (other, taps.events[9:])):
            answer = self.append(token, events, client)
            self.assertEqual(answer.json()["kept"], [event.id for event in events])
        self.assertEqual(
            set(Event.objects.values_list("person", flat=True)), {self.room.monitor.pk}
        )
        self.assertEqual(Result.objects.get().current.made_by, self.room.monitor)

    def test_it_appends_to_its_visit_and_nothing_else(self) -> None:
        """Another visit's run is not known; pages stay closed; a correction is refused."""
        token = self.token()
        other = self.room.new_run()
        answer = self.append(token, Taps(run=str(other.pk)).before().events)
        self.assertEqual(
            answer.json()["refused"][0]["reason"], "The server does not know this test."
        )
        headers = {"Authorization": f"Kessa-Append {token}"}
        self.assertEqual(Client().get(self.room.url("today/"), headers=headers).status_code, 302)
        taps = self.taps().before().correct("first-1", 8)
        refused = self.append(token, taps.events).json()["refused"]
        self.assertIn("on the result’s page", refused[0]["reason"])

    def test_it_ends(self) -> None:
        """Revoked, run out, replaced, or its person has left: 401 with a sentence."""
        events = self.taps().before().events
        manager = self.room.people["manager"]
        old = self.token()
        tokens = {"replaced": old, "revoked": self.token()}
        revoke(DeviceToken.objects.active().get(), self.room.monitor)
        tokens["unknown"] = "x" * 43
        tokens["run out"], made = allow(self.visit, self.room.monitor, "device-2", "tablet")
        made.expires_at = timezone.now() - timedelta(seconds=1)
        made.save()
        tokens["left"], _ = allow(self.visit, self.room.monitor, "device-3", "tablet")
        withdraw(Membership.objects.get(person=self.room.monitor), manager)
        for why, token in tokens.items():
            with self.subTest(why=why):
                answer = self.append(token, events)
                self.assertEqual(answer.status_code, 401)
                self.assertIn("may no longer send", answer.json()["error"])
        self.assertEqual(Event.objects.count(), 0)

    def test_all_are_revoked_at_once_from_the_account(self) -> None:
        """Each is listed, and one button ends them; nobody else's."""
        tokens = [allow(self.visit, self.room.monitor, f"device-{n}", "tablet")[0] for n in "12"]
        other, _ = allow(self.visit, self.room.people["reviewer"], "device-3", "tablet")
        self.assertContains(self.client.get("/account/"), "Devices with permission to send")
        self.client.post("/account/sending/all/")
        events = self.taps().before().events
        statuses = [self.append(token, events).status_code for token in (*tokens, other)]
        self.assertEqual(statuses, [401, 401, 200])

    def test_only_its_hash_is_kept(self) -> None:
        """The token stands nowhere in the database."""
        self.assertNotIn(self.token(), str(list(DeviceToken.objects.values())))

    def test_the_sign_in_needs_its_csrf_token(self) -> None:
        """The other endpoint takes nothing from a page of somebody else's."""
        client = Client(enforce_csrf_checks=True)
        client.force_login(self.room.monitor)
        self.assertEqual(self.send(self.taps().before().events, client=client).status_code, 403)


class Limits(Sending):
    def test_one_oversize_act_is_refused_and_the_rest_is_kept(self) -> None:
        """Each with its reason."""
        taps = self.taps().before().act("note", text="x" * 600).steps("blank")
        answer = self.send(taps.events).json()
        self.assertEqual([one["id"] for one in answer["refused"]], [taps.events[1].id])
        self.assertIn("data.text must be a short text", answer["refused"][0]["reason"])
        self.assertEqual(len(answer["kept"]), len(taps.events) - 1)

    def test_too_much_at_once(self) -> None:
        """413 in JSON above a megabyte; above 500 acts the rest waits for the next sending."""
        answer = self.client.post(
            self.room.url("events/"), b'{"events": "' + b"x" * 1_100_000, "application/json"
        )
        self.assertEqual(answer.status_code, 413)
        self.assertIn("Send fewer actions", answer.json()["error"])
        many = self.taps().before().drops(520).events
        self.assertEqual(len(self.send(many).json()["kept"]), 500)

    def test_too_often(self) -> None:
        """429 with the wait; another person of the programme is not held up."""
        with patch("kessa.pages.sending.views.MOST_A_MINUTE", 3):
            statuses = [self.send([]).status_code for _ in range(4)]
            self.client.force_login(self.room.people["reviewer"])
            statuses.append(self.send([]).status_code)
        self.assertEqual(statuses, [200, 200, 200, 429, 200])


class Others(Sending):
    def test_a_page_hears_what_other_devices_sent(self) -> None:
        """Everything after the arrival it knows, but not its own; and the run's state."""
        mine = self.taps(device="device-1").before()
        self.send(mine.events)
        theirs = Taps(run=str(self.run_.pk), device="device-2").act("note", text="rain")
        self.send(theirs.events)
        more = mine.steps("blank").events[1:]
        answer = self.send(more, since={str(self.run_.pk): 1}).json()
        told = answer["others"][str(self.run_.pk)]
        self.assertEqual([event["id"] for event in told["events"]], [theirs.events[0].id])
        self.assertEqual(told["arrival"], 2 + len(more))
        quiet = self.send([], since={str(self.run_.pk): told["arrival"]}).json()
        self.assertEqual((quiet["others"][str(self.run_.pk)]["events"], quiet["runs"]), ([], {}))

    def test_a_page_hears_of_the_run_that_another_device_went_on_with(self) -> None:
        """The smaller portion begun elsewhere arrives with the run it continues."""
        taps = self.taps().before().count(1, "blank").beyond()
        self.send(taps.events)
        other = "22222222-2222-4222-8222-222222222222"
        went_on = Taps(small(), run=other, device="device-2")
        went_on.act("begin", continues=str(self.run_.pk)).before()
        self.send(went_on.events)
        told = self.send([], since={str(self.run_.pk): len(taps.events)}).json()
        self.assertEqual([e["act"] for e in told["others"][other]["events"]], ["begin", "answer"])
        self.assertIn(other, told["runs"])

    def test_since_is_read_with_care(self) -> None:
        """Foreign runs, nonsense and huge numbers tell nothing."""
        foreign = Room("south-room").finished().run_id
        for since in ({str(foreign): 0}, {"x": 1}, [1], "x", {str(self.run_.pk): 1e300}, None):
            answer = self.send([], since=since)
            self.assertEqual((answer.status_code, answer.json()["others"]), (200, {}))


class Shown(Sending):
    def finish(self, **shown: str) -> Result:
        taps = self.taps().before().count(1, "blank").count(7).count(8)
        last = taps.events[-1].as_json()
        self.send([*taps.events[:-1], last | {"shown": {"sheet": "s", **shown}}])
        return Result.objects.get()

    def test_what_the_page_showed_is_kept_where_it_differs(self) -> None:
        """Both figures stand on the result; the server's counts; the reviewer is told."""
        result = self.finish(f="61", r="44–62", s="within")
        self.assertEqual(result.current.shown["f"], "61")
        page = self.client.get(self.room.url(f"results/{result.pk}/"))
        self.assertContains(page, "The test page showed 61 (44–62). The server’s value counts.")
        self.client.force_login(self.room.people["reviewer"])
        review = self.client.get(self.room.url("review/"))
        self.assertContains(review, "the server computed another value")

    def test_the_same_figure_leaves_no_trace(self) -> None:
        """Nothing is kept and nothing is said."""
        result = self.finish(f="58", r="50–64", s="within")
        self.assertEqual(result.current.shown, {})
