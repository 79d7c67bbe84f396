"""The wrong test changed or cancelled, unfinished tests handed over or ended, words by water."""

from django.utils import timezone

from kessa.flows.receiving import keep
from kessa.places.models import Water
from kessa.platform.models import AuditEntry
from kessa.results.models import Result
from kessa.runs.models import CANCELLED, Run
from kessa.visits.models import Sample
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps

BIG, SMALL = "chloride-drops-15ml", "chloride-drops-5ml"


class WrongTest(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def test_before_sampling(self) -> None:
        """Changed without losing what was noted; cancelled without a reason and without "flood"."""
        begin = self.room.url(f"points/{self.room.point.pk}/test/")
        self.client.post(begin, {"method": BIG})
        sample = Sample.objects.get()
        safety = self.room.url(f"samples/{sample.pk}/safety/")
        self.client.post(safety, {"go": "yes"})
        answer = self.client.post(self.room.url(f"samples/{sample.pk}/change/"), {"method": SMALL})
        self.assertRedirects(answer, self.room.url(f"samples/{sample.pk}/context/"))
        sample.refresh_from_db()
        self.assertEqual((sample.method_id, sample.safe), (SMALL, True))
        self.assertContains(self.client.get(answer.url), "Cancel this test")
        self.client.post(self.room.url(f"samples/{sample.pk}/cancel/"))
        sample.refresh_from_db()
        self.assertEqual((sample.outcome, sample.reason), ("cancelled", ""))
        self.assertNotContains(self.client.get(self.room.url("bench/")), "not sampled yet")
        acts = set(AuditEntry.objects.values_list("act", flat=True))
        self.assertLessEqual({"sample.test-changed", "sample.cancelled"}, acts)

    def test_at_the_bench_before_anything_is_read(self) -> None:
        """Another test of the same sample takes its place; neither leaves a result."""
        run = self.room.new_run()
        self.assertContains(self.client.get(self.room.url(f"bench/{run.pk}/")), "Wrong test?")
        answer = self.client.post(self.room.url(f"bench/{run.pk}/change/"), {"method": SMALL})
        other = Run.objects.get(finish="")
        self.assertRedirects(answer, self.room.url(f"bench/{other.pk}/"))
        run.refresh_from_db()
        self.assertEqual((run.finish, other.sample_id), (CANCELLED, run.sample_id))
        self.assertEqual(other.version.method_id, SMALL)
        self.client.post(self.room.url(f"bench/{other.pk}/cancel/"))
        self.assertEqual(Result.objects.count(), 0)
        gone = self.client.get(self.room.url(f"bench/{other.pk}/"))
        self.assertRedirects(gone, self.room.url(f"points/{self.room.point.pk}/"))

    def test_what_was_begun_is_not_cancelled(self) -> None:
        """A tick is enough; and acts that arrive for a cancelled test bring it back."""
        run = self.room.new_run()
        taps = Taps(run=str(run.pk)).before()
        keep(self.room.programme, self.room.monitor, [taps.events[0].as_json()])
        for way in ("cancel", "change"):
            self.client.post(self.room.url(f"bench/{run.pk}/{way}/"), {"method": SMALL})
            run.refresh_from_db()
            self.assertEqual(run.finish, "")
        late = self.room.new_run()
        self.client.post(self.room.url(f"bench/{late.pk}/cancel/"))
        taps = Taps(run=str(late.pk)).before().count(1, "blank").count(7).count(8)
        keep(self.room.programme, self.room.monitor, [e.as_json() for e in taps.events])
        late.refresh_from_db()
        self.assertEqual(
            (late.finish, Result.objects.get(run=late).status), ("done", "provisional")
        )


class Unfinished(RoomTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.run_ = cls.room.new_run()
        taps = Taps(run=str(cls.run_.pk)).before().count(1, "blank").count(7)
        keep(cls.room.programme, cls.room.monitor, [e.as_json() for e in taps.events])

    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def test_handed_over(self) -> None:
        """It leaves my list and stands in the other's."""
        reviewer = self.room.people["reviewer"]
        member = reviewer.memberships.get()
        self.client.post(self.room.url(f"bench/{self.run_.pk}/hand-over/"), {"to": member.pk})
        page = self.client.get(self.room.url("bench/"))
        self.assertEqual((page.context["mine"], len(page.context["others"])), ([], 1))
        self.assertEqual(self.client.get(self.room.url("today/")).context["waiting"], [])
        self.client.force_login(reviewer)
        waiting = self.client.get(self.room.url("today/")).context["waiting"]
        self.assertEqual(waiting, [self.run_])
        page = self.client.get(self.room.url("bench/"))
        self.assertEqual(len(page.context["mine"]), 1)
        self.assertEqual(AuditEntry.objects.filter(act="run.handed-over").count(), 1)
        wrong = self.client.post(self.room.url(f"bench/{self.run_.pk}/hand-over/"), {"to": "x"})
        self.assertEqual(wrong.status_code, 404)

    def test_ended_without_a_word(self) -> None:
        """Then it says where it was ended; a reason is kept in one line, without odd letters."""
        for why, kept in (
            ("  ", "ended from the list of unfinished tests"),
            ("kit\x00 was\n lost", "kit was lost"),
        ):
            run = self.room.new_run()
            taps = Taps(run=str(run.pk)).before().count(1, "blank")
            keep(self.room.programme, self.room.monitor, [e.as_json() for e in taps.events])
            self.client.post(self.room.url(f"bench/{run.pk}/end/"), {"why": why})
            self.assertEqual(Result.objects.get(run=run).current.cause, kept)

    def test_ended_from_the_list(self) -> None:
        """Not tested, with the reason; the readings stay with it."""
        self.client.post(self.room.url(f"bench/{self.run_.pk}/end/"), {"why": "kit was lost"})
        result = Result.objects.get(run=self.run_)
        self.assertEqual(
            (result.current.finish, result.current.cause), ("not-tested", "kit was lost")
        )
        self.assertEqual([d["drops"] for d in result.current.determinations][:2], [1, 7])
        self.assertContains(self.client.get(self.room.url("bench/")), "No unfinished tests")


class ByWater(RoomTest):
    STREAM_WORDS = ("downstream", "upstream", "thaw", "Weather", "dead fish", "bank")

    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def pages(self, kind: str) -> str:
        Water.objects.filter(pk=self.room.water.pk).update(kind=kind)
        self.client.post(self.room.url(f"points/{self.room.point.pk}/test/"), {"method": BIG})
        sample = Sample.objects.latest("pk")
        told = []
        for step, data in (
            ("safety", {"go": "yes"}),
            ("context", {"weather_now": "clear", "weather_before": "dry"}),
            ("sample", {}),
        ):
            address = self.room.url(f"samples/{sample.pk}/{step}/")
            page = self.client.get(address).content.decode()
            told.append(page[page.index("<main") : page.index("</main>")])
            if data:
                self.assertEqual(self.client.post(address, data).status_code, 302)
        return " ".join(told)

    def test_no_stream_words_at_a_tap_a_boiler_or_a_loop(self) -> None:
        """Each water has its own cautions and its own way of taking the sample."""
        for kind, says in (
            ("tap", "run for two minutes"), ("boiler", "hot and under pressure"),
            ("heating", "Flush the line"), ("chilled", "plant’s bucket"), ("cooling", "Flush"),
            ("cooling", "Do not breathe mist"), ("tap", "Hot water scalds"),
        ):  # fmt: skip
            told = self.pages(kind)
            with self.subTest(kind=kind):
                self.assertIn(says, told)
                found = [
                    w for w in self.STREAM_WORDS if w in told.replace("never into a stream", "")
                ]
                self.assertEqual(found, [])
        told = self.pages("stream")
        for word in ("downstream", "Weather", "thaw", "dead fish", "Never alone", "wear a vest"):
            self.assertIn(word, told)

    def test_the_waters_temperature_is_asked_as_the_sample_is_taken(self) -> None:
        """Not before the water is touched; it stands with the sample."""
        told = self.pages("stream")
        self.assertEqual(told.count('name="water_c"'), 1)
        sample = Sample.objects.latest("pk")
        at = timezone.localtime().strftime("%Y-%m-%dT%H:%M")
        self.client.post(
            self.room.url(f"samples/{sample.pk}/sample/"), {"at": at, "water_c": "6.5"}
        )
        sample.refresh_from_db()
        self.assertEqual(str(sample.water_c), "6.5")
