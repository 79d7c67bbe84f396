"""Visits of the past, written many at once: the same as if a device had sent them."""

from datetime import UTC, datetime, timedelta
from uuid import uuid4

from django.forms.models import model_to_dict

from kessa.flows.past_visits import PastSample, PastTest, PastVisit, PastVisits
from kessa.flows.rebuilding import rebuild
from kessa.platform.models import AuditEntry
from kessa.platform.verify import find_errors
from kessa.results.models import Evaluation, LatestResult, Result
from kessa.runs.models import Event
from kessa.verdicts.models import Verdict
from kessa.visits.models import Sample, TestAsked
from tests.builders.people import Room
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps

AT = datetime(2026, 3, 2, 9, 50, tzinfo=UTC)
SAME = (
    "finish", "decision", "parameter", "form", "basis", "unit", "number", "figure", "low", "high",
    "sure_low", "sure_high", "working", "notes", "flags", "how", "rounding", "decimals",
)  # fmt: skip


class Past(RoomTest):
    def one_test(self, drops: int = 14) -> PastTest:
        run = uuid4()
        taps = Taps(run=str(run)).before().count(1, "blank").count(drops).count(drops)
        return PastTest("chloride-drops-15ml", run, taps.events)

    def write(self, *samples: PastSample, reviewed: bool = True) -> None:
        """One visit for each sample."""
        past = PastVisits(self.room.programme)
        reviewer = self.room.people["reviewer"] if reviewed else None
        for sample in samples:
            past.add(PastVisit(self.room.monitor, [sample], reviewed_by=reviewer))
        past.finish()

    def sample(self, days: int = 0, drops: int = 14) -> PastSample:
        noted = {"weather_now": "rain", "seen": ["clear water"], "note": "", "water_c": "6.5"}
        at = AT + timedelta(days=days)
        return PastSample(self.room.point, at, noted, [self.one_test(drops)])

    def test_the_same_as_from_a_device(self) -> None:
        """Value, range, working, sentences and verdicts; the sample's conditions; its test done."""
        other = Room("south-room")
        sent = other.finished(samples=(14, 14))
        self.write(self.sample())
        made = Result.objects.of(self.room.programme).get()
        mine, theirs = (
            model_to_dict(Evaluation.objects.get(result=one), SAME) for one in (made, sent)
        )
        self.assertEqual(mine, theirs)
        verdicts = [
            sorted(
                (v.limit.limit_id, v.code, v.reported_code, v.leads, tuple(v.sentences))
                for v in Verdict.objects.filter(evaluation__result=one)
            )
            for one in (made, sent)
        ]
        self.assertEqual(*verdicts)
        self.assertGreater(len(verdicts[0]), 1)
        self.assertEqual((made.outcome_code, made.status), (sent.outcome_code, "reviewed"))
        sample = Sample.objects.of(self.room.programme).get()
        self.assertEqual((sample.outcome, sample.taken_at), ("taken", AT))
        self.assertEqual((sample.weather_now, float(sample.water_c)), ("rain", 6.5))
        self.assertEqual(TestAsked.objects.get(sample=sample).state, "done")

    def test_the_record_stands_up(self) -> None:
        """Every row is sealed, every projection follows from the facts, a changed act shows."""
        self.write(self.sample(), self.sample(7), self.sample(14, drops=30))
        self.assertEqual(list(find_errors(self.room.programme)), [])
        before = list(
            LatestResult.objects.order_by("parameter").values("count", "usual_low", "news")
        )
        rebuild(self.room.programme)
        after = list(
            LatestResult.objects.order_by("parameter").values("count", "usual_low", "news")
        )
        self.assertEqual(before, after)
        self.assertEqual(AuditEntry.objects.filter(act="visit.written").count(), 3)

    def test_what_is_usual_grows_with_the_visits(self) -> None:
        """The tenth is judged by what was usual before it, and the newest is news."""
        self.write(*(self.sample(7 * n) for n in range(10)), self.sample(70, drops=40))
        latest = LatestResult.objects.get()
        self.assertEqual((latest.count, latest.usual_count, latest.unusual), (11, 10, True))
        leads = Verdict.objects.filter(leads=True).order_by("in_force_at")
        self.assertEqual([v.usual["count"] if v.usual else 0 for v in leads], [0] * 8 + [8, 9, 10])

    def test_not_sampled(self) -> None:
        """A flood: no result, the reason kept, the tests still asked."""
        self.write(
            PastSample(self.room.point, AT, {}, methods=["chloride-drops-15ml"], not_taken="flood")
        )
        sample = Sample.objects.get()
        self.assertEqual((sample.outcome, sample.reason), ("not-taken", "flood"))
        self.assertFalse(Result.objects.exists() or Event.objects.exists())
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_results_that_nobody_reviewed_wait(self) -> None:
        """As those that a device sends."""
        self.write(self.sample(), reviewed=False)
        result = Result.objects.get()
        self.assertEqual((result.status, result.waits_for), ("provisional", "reviewer"))
