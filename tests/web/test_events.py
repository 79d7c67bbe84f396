"""The endpoint for acts: kept once, refused one by one, never a redirect."""

import json
from uuid import uuid4

from kessa.results.models import Evaluation, Result
from kessa.runs.models import Event, Run
from tests.builders.people import Room
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps, small


class Receive(RoomTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.run_ = cls.room.new_run()

    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def taps(self, **more) -> Taps:
        return Taps(run=str(self.run_.pk), **more)

    def send(self, events, room: Room | None = None, **headers):
        sent = [getattr(event, "as_json", lambda event=event: event)() for event in events]
        url = (room or self.room).url("events/")
        return self.client.post(
            url, json.dumps({"events": sent}), content_type="application/json", headers=headers
        )

    def test_kept_and_answered(self) -> None:
        """Every id is named; the answer carries the server's own fold and the result's row."""
        taps = self.taps().before().count(1, "blank").count(7).count(8)
        answer = self.send(taps.events).json()
        self.assertEqual(answer["kept"], [event.id for event in taps.events])
        said = answer["runs"][str(self.run_.pk)]
        row = said["results"]["chloride"]
        self.assertEqual((said["finish"], row["f"], row["s"]), ("done", "58", "within"))
        self.assertTrue(said["digest"].startswith("finished//done|blank-1:1:plain:110:0|"))

    def test_sent_twice_is_kept_once(self) -> None:
        """The second sending names the ids again and stores nothing."""
        taps = self.taps().before().count(1, "blank").count(7).count(8)
        self.send(taps.events)
        again = self.send(taps.events).json()
        self.assertEqual(again["kept"], [event.id for event in taps.events])
        self.assertEqual(Event.objects.count(), len(taps.events))
        self.assertEqual(Evaluation.objects.count(), 1)

    def test_in_pieces_and_out_of_order(self) -> None:
        """Whatever order they arrive in, the result is the same."""
        events = self.taps().before().count(1, "blank").count(7).count(8).events
        for piece in (events[20:], events[:9], events[9:20]):
            self.send(piece)
        self.assertEqual(
            Result.objects.get().current.working, "7, 8 drops: (mean 7.5 − ½) × 8.3 = 58 mg/L as Cl"
        )

    def test_bad_events_are_refused_one_by_one(self) -> None:
        """The rest is kept; each refusal has a reason a person can read."""
        good, *_ = self.taps().before().events
        bad = good.as_json() | {"id": str(uuid4()), "at": "soon"}
        foreign = good.as_json() | {"id": str(uuid4()), "run": str(uuid4())}
        answer = self.send([bad, good, foreign, 7]).json()
        self.assertEqual(answer["kept"], [good.id])
        reasons = {one["reason"] for one in answer["refused"]}
        self.assertIn("The server does not know this test.", reasons)
        self.assertTrue(any("not a date" in reason for reason in reasons))
        self.assertEqual(len(answer["refused"]), 3)

    def test_another_programmes_run_is_not_known(self) -> None:
        """Events for it are refused; nothing is stored, and nothing is told."""
        other = Room("south-room")
        foreign_run = other.new_run()
        taps = Taps(run=str(foreign_run.pk)).before()
        answer = self.send(taps.events).json()
        self.assertEqual(answer["kept"], [])
        self.assertEqual(answer["runs"], {})
        self.assertFalse(Event.objects.filter(run=foreign_run).exists())

    def test_an_id_of_another_run_is_refused(self) -> None:
        """An id belongs to one act for ever."""
        events = self.taps().before().events
        self.send(events)
        second = self.room.new_run()
        answer = self.send([events[0].as_json() | {"run": str(second.pk)}]).json()
        self.assertEqual(answer["refused"][0]["reason"], "This id belongs to another action.")

    def test_not_json_is_400_and_wrong_sign_in_409(self) -> None:
        """In JSON, with a sentence."""
        for body in ("", "[]", "{", '{"events": 3}', "[" * 5000):
            answer = self.client.post(
                self.room.url("events/"), body, content_type="application/json"
            )
            self.assertEqual((answer.status_code, "error" in answer.json()), (400, True))
        self.assertEqual(self.send([], **{"X-Kessa-Person": "0"}).status_code, 409)
        self.assertEqual(self.client.get(self.room.url("events/")).status_code, 405)

    def test_csrf_holds(self) -> None:
        """Without the token nothing is taken."""
        self.client.handler.enforce_csrf_checks = True
        self.assertEqual(self.send([]).status_code, 403)

    def test_undo_after_the_end_makes_a_new_evaluation(self) -> None:
        """The old one stays; the result points at the new one."""
        taps = self.taps().before().count(1, "blank").count(7).count(8)
        self.send(taps.events)
        first = Result.objects.get().current
        taps.take_back()
        self.send(taps.events)
        self.assertEqual(Run.objects.get(pk=self.run_.pk).finish, "")
        self.assertEqual(Result.objects.get().status, "awaiting")
        taps.act("doubt").act("next")
        self.send(taps.events)
        result = Result.objects.get()
        self.assertNotEqual(result.current_id, first.pk)
        self.assertEqual(result.status, "provisional")
        self.assertEqual(result.evaluations.count(), 2)

    def test_a_run_goes_on_with_the_smaller_portion(self) -> None:
        """Begun on the device, linked to the first, with its own blank; both results are kept."""
        first = self.taps().before().count(1, "blank").beyond()
        second = Taps(small(), run=str(uuid4()), device="device-2")
        second.act("begin", continues=str(self.run_.pk), method=small().id)
        second.before().count(1, "blank").count(9).count(10)
        answer = self.send([*first.events, *second.events]).json()
        self.assertEqual(answer["refused"], [])
        linked = Run.objects.get(pk=second.run)
        self.assertEqual(
            (linked.continues_id, linked.version.method_id), (self.run_.pk, small().id)
        )
        figures = [r.current.value.figure for r in Result.objects.order_by("pk")]
        self.assertEqual(figures, ["> 199", "224"])

    def test_a_run_cannot_be_begun_from_nowhere(self) -> None:
        """Only a run that ran out of range can be gone on from."""
        stray = Taps(small(), run=str(uuid4())).act("begin", continues=str(self.run_.pk))
        self.assertEqual(self.send(stray.events).json()["kept"], [])
        self.assertEqual(Run.objects.count(), 1)
