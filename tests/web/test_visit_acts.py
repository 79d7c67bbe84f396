"""A visit that was done without a network: its acts sent afterwards, once, with their own times."""

import json
from datetime import UTC, datetime, timedelta
from typing import Any

import time_machine
from django.test import Client

from kessa.flows.visit_acts import decide_between
from kessa.people.device_tokens import allow
from kessa.platform.models import AuditEntry
from kessa.platform.verify import find_errors
from kessa.results.models import Result
from kessa.runs.models import Run
from kessa.runs.services import make_ready
from kessa.visits.models import Sample, TestAsked, Visit, VisitEvent
from kessa.visits.projection import rebuild, replay
from kessa.visits.services import stands_against
from kessa.visits.sets import begin_set
from tests.builders.people import Room
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps
from tests.web.test_sets import new_set

BACK = datetime(2026, 11, 28, 15, 0, tzinfo=UTC)
"""When there is a network again."""
WENT = datetime(2026, 11, 28, 9, 0, tzinfo=UTC)


class Acts:
    """A device on a visit."""

    def __init__(self, visit: Visit, device: str = "phone-0001", offset_ms: int | None = 0) -> None:
        self.visit, self.device, self.offset_ms = visit, device, offset_ms
        self.at, self.seq = WENT, 0
        self.made: list[dict[str, Any]] = []

    def do(self, act: str, sample: Sample | None = None, **fields: Any) -> "Acts":
        """One act, two minutes after the last one."""
        self.seq += 1
        self.at += timedelta(minutes=2)
        self.made.append(
            {
                "v": 1, "id": f"{self.device}-act-{self.seq:04d}", "visit": self.visit.pk,
                "sample": sample.pk if sample else None, "act": act, "fields": fields,
                "device": self.device, "seq": self.seq, "lamport": 0, "at": self.at.isoformat(),
                "mono_ms": 1000 * self.seq, "page": "page-00001", "offset_ms": self.offset_ms,
            }
        )  # fmt: skip
        return self

    def sampled(self, sample: Sample, **taken: Any) -> "Acts":
        """From the look around to the full bottle."""
        self.do("safe", sample, go="yes")
        self.do("conditions", sample, weather_now="rain", weather_before="thaw", air_c="3.5",
                seen=["foam", "ice"], event="during rain")  # fmt: skip
        at = (self.at + timedelta(minutes=2)).strftime("%Y-%m-%dT%H:%M")
        return self.do("taken", sample, **({"at": at, "depth_cm": "30"} | taken))


@time_machine.travel(BACK, tick=False)
class AwayTest(RoomTest):
    """A visit that is taken along, with a phone."""

    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)
        with time_machine.travel(WENT - timedelta(hours=1), tick=False):
            held = new_set(self.room)
            points = [self.room.point, self.room.other]
            self.visit = begin_set(held, self.room.monitor, points, None)
            samples = Sample.objects.of(self.room.programme).filter(visit=self.visit)
            self.samples = list(samples.order_by("pk"))
            for sample in self.samples:
                make_ready(sample, self.room.monitor)
        self.first, self.second = self.samples
        self.phone = Acts(self.visit)

    def send(self, acts: list[dict[str, Any]], client: Client | None = None, **more: Any) -> Any:
        sent = json.dumps({"events": acts})
        address = more.pop("address", self.room.url("events/"))
        answer = (client or self.client).post(address, sent, "application/json", **more)
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def run_of(self, sample: Sample, method: str = "chloride-drops-15ml") -> Run:
        runs = Run.objects.of(self.room.programme)
        return runs.get(sample=sample, version__method_id=method)

    def taps(self, sample: Sample) -> list[dict[str, Any]]:
        """Chloride done at a point."""
        taps = Taps(run=str(self.run_of(sample).pk)).before().count(1, "blank").count(7).count(8)
        return [event.as_json() for event in taps.events]


@time_machine.travel(BACK, tick=False)
class SendingTest(AwayTest):
    def test_made_ready_it_is_no_test_under_way(self) -> None:
        """Neither Today nor the bench lists it, and its sample is still to be taken."""
        self.assertFalse(Run.objects.of(self.room.programme).unfinished().exists())
        states = TestAsked.objects.of(self.room.programme).values_list("state", flat=True)
        self.assertEqual(set(states), {"asked"})
        page = self.client.get(self.room.url(f"bench/{self.run_of(self.first).pk}/"))
        self.assertEqual(page.status_code, 200)

    def test_made_ready_twice_it_is_one(self) -> None:
        before = Run.objects.of(self.room.programme).count()
        make_ready(self.first, self.room.monitor)
        self.assertEqual(Run.objects.of(self.room.programme).count(), before)

    def test_everything_with_its_own_times(self) -> None:
        """Two points sampled, one tested, the end: sent in one go, hours later."""
        self.phone.sampled(self.first)
        acts = self.phone.made + self.taps(self.first)
        self.phone.sampled(self.second)
        answer = self.send([*acts, *self.phone.made[3:], self.phone.do("ended").made[-1]])
        self.assertEqual(answer["refused"], [])
        self.first.refresh_from_db()
        self.assertEqual(self.first.outcome, "taken")
        self.assertEqual(self.first.taken_at, datetime(2026, 11, 28, 9, 6, tzinfo=UTC))
        self.assertEqual(self.first.context_at, datetime(2026, 11, 28, 9, 4, tzinfo=UTC))
        self.assertEqual(
            (self.first.seen, self.first.noted["event"]), (["foam", "ice"], "during rain")
        )
        result = Result.objects.get(run=self.run_of(self.first))
        self.assertEqual(result.sampled_at, self.first.taken_at)
        self.assertIsNotNone(result.current)
        ended = VisitEvent.objects.of(self.room.programme).get(kind="ended")
        self.assertEqual(ended.at, self.phone.at)
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_the_test_before_its_sample(self) -> None:
        """What was done in a test waits for its sample; then it has its result."""
        self.send(self.taps(self.first))
        self.assertFalse(Result.objects.exists())
        self.send(self.phone.sampled(self.first).made)
        self.assertEqual(Result.objects.get().sampled_at.minute, 6)

    def test_sent_again_nothing_is_doubled(self) -> None:
        acts = self.phone.sampled(self.first).made
        first = self.send(acts[:2])
        again = self.send(acts)
        self.assertEqual(set(first["kept"]), {one["id"] for one in acts[:2]})
        self.assertEqual(set(again["kept"]), {one["id"] for one in acts})
        events = VisitEvent.objects.of(self.room.programme).exclude(sent_id=None)
        self.assertEqual(events.count(), 3)
        self.assertFalse(events.filter(beside=True).exists())

    def test_with_the_sign_in_expired(self) -> None:
        """The device's token appends to this visit and to no other."""
        token, _ = allow(self.visit, self.room.monitor, "phone-0001", "a phone")
        stranger = Client(headers={"Authorization": f"Kessa-Append {token}"})
        answer = self.send(self.phone.sampled(self.first).made, stranger, address="/append/")
        self.assertEqual(len(answer["kept"]), 3)
        self.assertEqual(Sample.objects.get(pk=self.first.pk).taken_by, self.room.monitor)
        other = self.room.new_visit("chloride-drops-15ml")
        sample = Sample.objects.of(self.room.programme).get(visit=other)
        foreign = Acts(other, "phone-0002").do("not-sampled", sample, reason="ice").made
        answer = self.send(foreign, stranger, address="/append/")
        self.assertEqual([one["reason"] for one in answer["refused"]],
                         ["The server does not know this visit."])  # fmt: skip

    def test_what_cannot_be_kept_says_why(self) -> None:
        """And keeps nothing of it; the others are kept."""
        south = Room("south-room")
        foreign = south.new_sample()
        cases = (
            (("taken", self.first, {"at": "yesterday"}), "Time of sampling: "),
            (("taken", self.first, {"at": "2026-11-29T09:00"}), "This time is in the future."),
            (("taken", self.first, {"at": "2026-11-28T09:00", "depth_cm": "deep"}), "Depth"),
            (("conditions", self.first, {"weather_now": "frogs"}), "Weather now: "),
            (("not-sampled", self.first, {}), "Choose a reason"),
            (("taken", foreign, {"at": "2026-11-28T09:00"}), "does not know this visit"),
        )
        for (act, sample, fields), said in cases:
            with self.subTest(act=act, fields=fields):
                made = self.phone.do(act, sample, **fields).made[-1]
                [refused] = self.send([made])["refused"]
                self.assertIn(said, refused["reason"])
        for wrong in ({"visit": 1}, {"visit": "x", "v": 1}, {"visit": None, "v": 1, "act": "safe"}):
            self.assertEqual(len(self.send([wrong])["refused"]), 1)
        self.assertFalse(VisitEvent.objects.exclude(sent_id=None).exists())

    def test_weather_is_not_forced(self) -> None:
        """Nobody can be asked again at the water."""
        self.assertEqual(
            self.send([self.phone.do("conditions", self.first).made[-1]])["refused"], []
        )

    def test_a_clock_that_is_three_hours_wrong(self) -> None:
        """The device learnt its offset when it was online before: times are the server's."""
        phone = Acts(self.visit, offset_ms=-3 * 3600 * 1000)
        phone.at += timedelta(hours=3)
        self.send(phone.do("safe", self.first).made)
        event = VisitEvent.objects.of(self.room.programme).get(sent_id="phone-0001-act-0001")
        self.assertEqual(event.at, WENT + timedelta(minutes=2))
        self.assertEqual(event.device["at"], (WENT + timedelta(hours=3, minutes=2)).isoformat())

    def test_reasons_at_the_end(self) -> None:
        """Tests that were not done, and a point that was not sampled, with their reasons."""
        self.phone.sampled(self.first)
        run = self.run_of(self.first)
        self.phone.do("ended", None, **{f"why-{run.pk}": "no time", f"why-{self.second.pk}": "ice",
                                        "note": "Back on Monday."})  # fmt: skip
        self.send(self.phone.made)
        self.second.refresh_from_db()
        self.assertEqual((self.second.outcome, self.second.reason), ("not-taken", "ice"))
        result = Result.objects.get(run=run)
        self.assertEqual((result.current.finish, result.current.cause), ("not-tested", "no time"))
        report = self.client.get(self.room.url(f"visits/{self.visit.pk}/report/"))
        self.assertContains(report, "Back on Monday.")
        self.assertContains(report, "Not sampled: ice")

    def test_a_test_that_was_changed_before_sampling(self) -> None:
        """What was made ready for the other one is cancelled, not left behind."""
        self.client.post(self.room.url(f"samples/{self.first.pk}/change/"),
                         {"method": "chloride-drops-5ml"})  # fmt: skip
        was = self.run_of(self.first)
        self.send(self.phone.sampled(self.first).made)
        was.refresh_from_db()
        self.assertEqual(was.finish, "cancelled")
        self.assertEqual(self.run_of(self.first, "chloride-drops-5ml").finish, "")


@time_machine.travel(BACK, tick=False)
class TwoDevicesTest(AwayTest):
    """Both worked alone; what contradicts each other stays, and a person decides."""

    def setUp(self) -> None:
        super().setUp()
        self.phone.sampled(self.first)
        self.send(self.phone.made + self.taps(self.first))
        self.tablet = Acts(self.visit, "tablet-001")

    def beside(self) -> VisitEvent:
        return VisitEvent.objects.of(self.room.programme).undecided().get()

    def address(self) -> str:
        return self.room.url(f"visits/{self.visit.pk}/")

    def test_both_stay_and_the_page_asks(self) -> None:
        self.send(self.tablet.do("not-sampled", self.first, reason="ice").made)
        self.first.refresh_from_db()
        self.assertEqual(self.first.outcome, "taken")
        standing = stands_against(self.beside())
        assert standing is not None
        self.assertEqual((standing.kind, self.beside().kind), ("taken", "not-taken"))
        page = self.client.get(self.address())
        self.assertContains(page, "Two records of Beck, at the ford")
        self.assertContains(page, "not sampled: ice")
        acts = AuditEntry.objects.values_list("act", flat=True)
        self.assertIn("sample.beside", acts)

    def test_the_first_is_kept(self) -> None:
        self.send(self.tablet.do("not-sampled", self.first, reason="ice").made)
        self.decide("first")
        self.first.refresh_from_db()
        self.assertEqual(self.first.outcome, "taken")

    def test_the_second_is_kept_and_results_follow(self) -> None:
        """Sampled twice: the other time holds, and the result is that of the other time."""
        self.send(self.tablet.do("taken", self.first, at="2026-11-28T10:30").made)
        self.decide("second")
        self.first.refresh_from_db()
        self.assertEqual(self.first.taken_at, datetime(2026, 11, 28, 10, 30, tzinfo=UTC))
        result = Result.objects.get()
        self.assertEqual(result.sampled_at, self.first.taken_at)
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_field_conditions(self) -> None:
        self.send(self.tablet.do("conditions", self.first, weather_now="clear", level="high").made)
        decide_between(self.beside(), self.room.monitor, True, "the tablet was at the water")
        self.first.refresh_from_db()
        self.assertEqual((self.first.weather_now, self.first.noted), ("clear", {"level": "high"}))

    def test_rebuilt_it_is_the_same(self) -> None:
        self.send(self.tablet.do("taken", self.first, at="2026-11-28T10:30").made)
        self.decide("second")
        self.first.refresh_from_db()
        held = self.first.taken_at
        replay(self.first)
        self.assertEqual(self.first.taken_at, held)
        rebuild(self.first)

    def decide(self, which: str) -> None:
        beside = self.beside()
        answer = self.client.post(
            self.room.url(f"visits/{self.visit.pk}/decide/{beside.pk}/"),
            {"keep": which, "why": "asked Tam"},
        )
        self.assertRedirects(answer, self.address())
        self.assertFalse(VisitEvent.objects.of(self.room.programme).undecided().exists())
