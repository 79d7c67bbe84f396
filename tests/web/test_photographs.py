"""Photographs: kept once and without their position, read later by somebody else, a second time
without seeing the first."""

import io
from datetime import UTC, datetime

import time_machine
from django.db import connection
from django.test.utils import CaptureQueriesContext
from PIL import Image

from kessa.flows.photographs import to_read
from kessa.flows.rebuilding import rebuild
from kessa.flows.receiving import keep
from kessa.people.device_tokens import allow
from kessa.photos.models import Photograph
from kessa.platform.verify import find_errors
from kessa.results.models import Result
from kessa.runs.models import Event, PhotoReading, Run
from kessa.runs.services import state_of
from kessa.visits.models import VisitEvent
from tests.builders.people import Room
from tests.builders.photographs import MAKE, NITRATE, POSITION, key_of, photographed_test, picture
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps
from tests.web.test_visit_acts import Acts


class Sending(RoomTest):
    def send(self, file: bytes, key: str = "", path: str = "", **headers: str):
        asked = {"X-Kessa-Photograph": key or key_of(file)} | headers
        where = path or self.room.url("photographs/send/")
        return self.client.post(where, file, content_type="image/jpeg", headers=asked)

    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def test_kept_once_and_without_what_the_camera_wrote(self) -> None:
        """Sent twice: one row; the picture served holds neither position nor maker."""
        file = picture()
        for _ in range(2):
            self.assertEqual(self.send(file).json(), {"kept": key_of(file)})
        kept = Photograph.objects.of(self.room.programme).get()
        answer = self.client.get(self.room.url(f"photographs/{kept.key}.jpg"))
        served = Image.open(io.BytesIO(b"".join(answer)))
        self.assertEqual((served.format, served.size), ("JPEG", (320, 240)))
        found = served.getexif()
        self.assertEqual((dict(found), dict(found.get_ifd(POSITION))), ({}, {}))
        self.assertIn(MAKE, Image.open(io.BytesIO(file)).getexif())
        self.assertEqual(answer["X-Content-Type-Options"], "nosniff")
        self.assertIn("private", answer["Cache-Control"])
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_a_large_picture_is_made_smaller(self) -> None:
        self.send(picture(3000, 1000, "PNG"))
        kept = Photograph.objects.of(self.room.programme).get()
        self.assertEqual((kept.width, kept.height), (2000, 667))

    def test_what_is_refused(self) -> None:
        """(file, key, status, part of the sentence); nothing of it is kept."""
        good = picture()
        for file, key, status, words in (
            (good, "0" * 64, 422, "damaged"),
            (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "", 422, "not a photograph"),
            (b"", "", 422, "not a photograph"),
            (good[:400], "", 422, "not a photograph"),
            (b"x" * 1_000_001, "", 413, "too large"),
        ):
            with self.subTest(words=words, size=len(file)):
                answer = self.send(file, key)
                self.assertEqual(answer.status_code, status)
                self.assertIn(words, answer.json()["error"])
        self.assertFalse(Photograph.objects.of(self.room.programme).exists())

    def test_as_a_device_whose_sign_in_has_expired(self) -> None:
        """With its visit's permission it is kept under the same name; without one it is not."""
        visit = self.room.new_run().sample.visit
        token, _ = allow(visit, self.room.monitor, "phone-0001", "Phone")
        self.client.logout()
        file, path = picture(), "/append/photograph/"
        self.assertEqual(self.send(file, path=path).status_code, 401)
        answer = self.send(file, path=path, Authorization=f"Kessa-Append {token}")
        self.assertEqual(answer.json(), {"kept": key_of(file)})
        self.assertEqual(Photograph.objects.get().by, self.room.monitor)

    def test_another_persons_are_not_sent_under_this_name(self) -> None:
        other = str(self.room.people["manager"].pk)
        answer = self.send(picture(), **{"X-Kessa-Person": other})
        self.assertEqual(answer.status_code, 409)

    def test_of_another_programme(self) -> None:
        """Not there at all."""
        file = picture()
        self.send(file)
        theirs = Room("south-room")
        self.client.force_login(theirs.monitor)
        for slug in ("north-room", "south-room"):
            answer = self.client.get(f"/p/{slug}/photographs/{key_of(file)}.jpg")
            self.assertEqual(answer.status_code, 404)

    def test_a_file_that_was_changed_is_found(self) -> None:
        """And one that is gone."""
        self.send(picture())
        kept = Photograph.objects.of(self.room.programme).get()
        kept.path.write_bytes(picture(10, 10))
        self.assertIn("not the one", str(list(find_errors(self.room.programme))))
        kept.path.unlink()
        self.assertIn("not there", str(list(find_errors(self.room.programme))))
        answer = self.client.get(self.room.url(f"photographs/{kept.key}.jpg"))
        self.assertEqual(answer.status_code, 404)


class Reading(RoomTest):
    def setUp(self) -> None:
        self.reviewer = self.room.people["reviewer"]
        self.client.force_login(self.reviewer)

    def read(self, row: PhotoReading, **given: str):
        return self.client.post(self.room.url(f"readings/{row.pk}/"), given)

    def choice(self, at: int) -> str:
        """The words of a place on the scale."""
        run = Run.objects.of(self.room.programme).filter(version__method_id=NITRATE).first()
        scale = run.method.stages[0].reader().scale("reading")
        return scale.labels[at - scale.low]

    def test_from_the_photograph_to_the_result(self) -> None:
        """Awaiting in log, visit and Today; read by somebody else; judged and under review."""
        row = photographed_test(self.room)
        result = Result.objects.get(run=row.run)
        self.assertEqual((result.status, result.waits_for), ("awaiting", ""))
        self.assertContains(self.client.get(self.room.url("today/")), "1 photograph to read")
        self.assertContains(self.client.get(self.room.url("readings/")), "Nitrate")
        visit = self.room.url(f"visits/{row.run.sample.visit_id}/")
        self.assertContains(self.client.get(visit), "awaiting reading")
        report = self.client.get(f"{visit}report/")
        self.assertContains(report, "waits for its photograph to be read")
        page = self.client.get(self.room.url(f"results/{result.pk}/"))
        self.assertContains(page, "photographed, not read yet")
        self.assertNotContains(page, "Awaiting reading:")
        self.assertNotContains(report, "Awaiting reading:")
        self.assertRedirects(self.read(row, raw=self.choice(3)), self.room.url("readings/"))
        result.refresh_from_db()
        self.assertEqual((result.status, result.waits_for), ("provisional", "reviewer"))
        self.assertIsNotNone(result.current.number)
        page = self.client.get(self.room.url(f"results/{result.pk}/"))
        self.assertContains(page, f"by {self.reviewer}")
        self.assertContains(self.client.get(self.room.url("readings/")), "No photographs to read")
        row.run.refresh_from_db()
        self.assertEqual(row.run.finish, "done")
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_a_second_reading_is_blind_and_by_somebody_else(self) -> None:
        """Nowhere in the page stands what the first one read; the first reader is turned away."""
        row = photographed_test(self.room, twice=True)
        self.read(row, raw=self.choice(3))
        value = Result.objects.get(run=row.run).current.figure
        row.refresh_from_db()
        self.assertEqual((row.wanted, row.read_by), ("second", self.reviewer))
        self.assertContains(self.client.get(self.room.url("readings/")), "You read it first")
        self.assertEqual(self.read(row, raw=self.choice(3)).status_code, 404)
        self.client.force_login(self.room.people["manager"])
        page = self.client.get(self.room.url(f"readings/{row.pk}/"))
        self.assertNotContains(page, "checked")
        self.assertNotContains(page, "selected")
        self.assertContains(page, "Second reading")
        self.read(row, raw=self.choice(6))
        result = Result.objects.get(run=row.run)
        self.assertEqual(result.current.figure, value)
        self.assertTrue(any("second person" in flag for flag in result.current.flags))
        page = self.client.get(self.room.url(f"results/{result.pk}/"))
        self.assertContains(page, "without seeing the first reading")
        row.refresh_from_db()
        self.assertEqual(row.wanted, "")

    def test_asked_for_afterwards(self) -> None:
        """From the result's page; once it waits, it is not asked for again."""
        row = photographed_test(self.room)
        self.read(row, raw=self.choice(3))
        result = Result.objects.get(run=row.run)
        page = self.room.url(f"results/{result.pk}/")
        self.assertContains(self.client.get(page), "Ask for a second reading")
        answer = self.client.post(self.room.url(f"readings/{row.pk}/again/"))
        self.assertRedirects(answer, page)
        row.refresh_from_db()
        self.assertEqual(row.wanted, "second")
        self.assertContains(self.client.get(page), "Waits for a second reading")

    def test_what_is_wrong_is_said_and_stays(self) -> None:
        """Nothing given; a figure that the scale does not show."""
        row = photographed_test(self.room)
        answer = self.read(row)
        self.assertContains(answer, "Say what you read", status_code=422)
        answer = self.read(row, raw="99.9 of nothing")
        self.assertEqual(answer.status_code, 422)
        row.refresh_from_db()
        self.assertEqual(row.wanted, "first")

    def test_each_pad_of_a_strip_says_which_one_it_is(self) -> None:
        """The photographs of three pads: each asks for its own, by its step and its scale."""
        run = self.room.new_run(method="strip-three-pads")
        taps = Taps(run.method, run=str(run.pk)).before().photograph("a" * 64)
        taps.on_to(1).photograph("b" * 64).on_to(2).photograph("c" * 64)
        keep(self.room.programme, self.room.monitor, [event.as_json() for event in taps.events])
        rows = PhotoReading.objects.of(self.room.programme).filter(run=run).order_by("photo")
        for row, stage in zip(rows, run.method.stages, strict=True):
            with self.subTest(stage.id):
                step = next(one for one in stage.steps if one.kind == "read")
                page = self.client.get(self.room.url(f"readings/{row.pk}/"))
                self.assertContains(page, step.title)
                self.assertContains(page, stage.reader().scale("reading").unit)
                self.assertEqual(to_read(row).step, step)

    def test_set_aside(self) -> None:
        """It cannot be read: no result, with the reason in the record."""
        row = photographed_test(self.room)
        self.read(row, unreadable="  glare\non the tube ")
        result = Result.objects.get(run=row.run)
        self.assertEqual(result.current.finish, "not-tested")
        held = state_of(row.run).determinations[0]
        self.assertEqual(held.rejected, "photograph: glare on the tube")
        row.refresh_from_db()
        self.assertEqual(row.wanted, "")

    def test_two_read_it_at_once(self) -> None:
        """The second one is told; the first reading stands."""
        row = photographed_test(self.room)
        self.read(row, raw=self.choice(3))
        stale = PhotoReading.objects.of(self.room.programme).get(pk=row.pk)
        self.client.force_login(self.room.people["manager"])
        self.assertEqual(self.read(stale, raw=self.choice(5)).status_code, 404)
        self.assertEqual(Event.objects.filter(run=row.run, act="read-photo").count(), 1)

    def test_no_device_reads_by_itself(self) -> None:
        """Its act is refused with where it is done."""
        row = photographed_test(self.room)
        taps = Taps(row.run.method, run=str(row.run_id), device="device-9")
        taps.act("read-photo", determination="first-1", slot="reading", raw="3")
        received = keep(self.room.programme, self.reviewer, [e.as_json() for e in taps.events])
        self.assertEqual(received.refused[0]["reason"], "Read photographs on their page.")

    def test_the_act_before_its_picture(self) -> None:
        """The queue says where the picture is; the reader waits for it."""
        row = photographed_test(self.room, sent=False)
        queue = self.client.get(self.room.url("readings/"))
        self.assertContains(queue, "Still on the device that took it")
        page = self.client.get(self.room.url(f"readings/{row.pk}/"))
        self.assertContains(page, "still on the device that took it")

    def test_taken_back_on_its_device(self) -> None:
        """It waits no more."""
        row = photographed_test(self.room)
        events = list(Event.objects.of_run(row.run))
        taps = Taps(row.run.method, run=str(row.run_id))
        taps.events = [event.as_core() for event in events]
        taps.take_back()
        keep(self.room.programme, self.room.monitor, [taps.events[-1].as_json()])
        row.refresh_from_db()
        self.assertEqual(row.wanted, "")

    def test_rebuilt_alike(self) -> None:
        """The queue follows from the acts."""
        for twice in (False, True):
            photographed_test(self.room, twice=twice)
        self.read(PhotoReading.objects.of(self.room.programme).last(), raw=self.choice(3))
        before = list(PhotoReading.objects.of(self.room.programme).order_by("pk").values())
        PhotoReading.objects.of(self.room.programme).update(wanted="", read_by=None)
        rebuild(self.room.programme)
        after = list(PhotoReading.objects.of(self.room.programme).order_by("pk").values())
        self.assertEqual(after, before)

    def test_as_many_queries_for_ten_as_for_two(self) -> None:
        def asked() -> int:
            with CaptureQueriesContext(connection) as made:
                self.client.get(self.room.url("readings/"))
            return len(made)

        for _ in range(2):
            photographed_test(self.room)
        asked()
        few = asked()
        for _ in range(8):
            photographed_test(self.room)
        self.assertEqual(asked(), few)

    def test_read_by_somebody_else_at_the_bench(self) -> None:
        """Named in the evidence."""
        run = self.room.new_run(method=NITRATE)
        taps = Taps(run.method, run=str(run.pk)).before().act("reader", name="Wren").read("3")
        keep(self.room.programme, self.room.monitor, [event.as_json() for event in taps.events])
        result = Result.objects.get(run=run)
        page = self.client.get(self.room.url(f"results/{result.pk}/"))
        self.assertContains(page, "read by Wren")


class Seen(RoomTest):
    """What was photographed on a visit, beside its tests."""

    @time_machine.travel(datetime(2026, 11, 28, 15, 0, tzinfo=UTC))
    def test_on_the_visits_page_and_report(self) -> None:
        """Before its picture arrives and after."""
        visit = self.room.new_visit("chloride-drops-15ml")
        sample, file = visit.samples.get(), picture()
        acts = Acts(visit).do("photo", sample, photo=key_of(file), what="foam under the weir")
        self.client.force_login(self.room.monitor)
        sent = {"events": [*acts.made, *acts.made]}
        answer = self.client.post(self.room.url("events/"), sent, content_type="application/json")
        self.assertEqual(answer.json()["refused"], [])
        self.assertEqual(VisitEvent.objects.filter(kind="photo").count(), 1)
        page = self.room.url(f"visits/{visit.pk}/")
        self.assertContains(self.client.get(page), "Still on the device that took it")
        asked = {"X-Kessa-Photograph": key_of(file)}
        where = self.room.url("photographs/send/")
        self.client.post(where, file, content_type="image/jpeg", headers=asked)
        for address in (page, f"{page}report/"):
            self.assertContains(self.client.get(address), 'alt="foam under the weir"')
        self.assertEqual(list(find_errors(self.room.programme)), [])

    @time_machine.travel(datetime(2026, 11, 28, 15, 0, tzinfo=UTC))
    def test_what_is_no_photograph(self) -> None:
        visit = self.room.new_visit("chloride-drops-15ml")
        acts = Acts(visit).do("photo", None, photo="../x", what="")
        self.client.force_login(self.room.monitor)
        answer = self.client.post(
            self.room.url("events/"), {"events": acts.made}, content_type="application/json"
        )
        self.assertEqual(len(answer.json()["refused"]), 1)
