"""The end of a visit: abandoned at any step it leaves a valid record; waste, stock, report."""

from collections.abc import Callable
from datetime import UTC, datetime
from decimal import Decimal

import time_machine
from django.db import transaction

from kessa.flows.receiving import keep
from kessa.flows.visit_end import finish_visit, summary_of
from kessa.library.services import in_use
from kessa.places.services import set_at
from kessa.platform.verify import find_errors
from kessa.results.models import Result
from kessa.runs.models import Run
from kessa.runs.services import open_runs
from kessa.visits import services as visits
from kessa.visits.models import Sample, TestAsked, Visit, VisitEvent
from kessa.visits.services import Asked, begin_visit
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps

METHODS = ("chloride-drops-15ml", "phosphate-strip")
AT = datetime(2026, 11, 28, 10, 0, tzinfo=UTC)


@time_machine.travel(AT, tick=False)
class Ending(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)
        for method in METHODS:
            in_use(self.room.programme, method, self.room.monitor)
        asked = [Asked(point, METHODS) for point in (self.room.point, self.room.other)]
        self.visit: Visit = begin_visit(self.room.programme, self.room.monitor, asked)
        samples = Sample.objects.of(self.room.programme).filter(visit=self.visit).order_by("pk")
        self.first, self.second = samples

    def url(self, name: str) -> str:
        return self.room.url(f"visits/{self.visit.pk}/{name}/")

    # What somebody did before giving up, step after step.

    def look(self) -> None:
        visits.decide_to_go(self.first, self.room.monitor)

    def note(self) -> None:
        visits.note_context(self.first, self.room.monitor, {"weather_now": "rain", "note": "wet"})

    def take(self) -> None:
        visits.take(self.first, self.room.monitor, AT, "UTC", 30)
        open_runs(self.first, self.room.monitor)

    def send(self, taps: Taps) -> None:
        keep(self.room.programme, self.room.monitor, [event.as_json() for event in taps.events])

    def taps(self) -> Taps:
        runs = Run.objects.of(self.room.programme).filter(sample=self.first)
        run = runs.get(version__method_id=METHODS[0])
        return Taps(run=str(run.pk)).before().count(1, "blank")

    def blank(self) -> None:
        self.send(self.taps())

    def one_reading(self) -> None:
        self.send(self.taps().count(7))

    def whole_test(self) -> None:
        self.send(self.taps().count(7).count(8))

    def test_abandoned_at_every_step(self) -> None:
        """Whatever was done stays; everything else is not done, with its reason; the record holds
        together, and what stood before is not judged anew."""
        steps: list[Callable[[], None]] = [
            self.look, self.note, self.take, self.blank, self.one_reading, self.whole_test,
        ]  # fmt: skip
        for done in range(len(steps) + 1):
            with self.subTest(done=done):
                self.setUp()
                for step in steps[:done]:
                    step()
                sampled = done >= 3
                open_runs_ = Run.objects.of(self.room.programme).of_visit(self.visit.pk)
                reasons = {str(run.pk): "no time" for run in open_runs_.filter(finish="")}
                left = [self.second] if sampled else [self.first, self.second]
                reasons |= {str(sample.pk): "no time" for sample in left}
                finish_visit(self.visit, self.room.monitor, reasons, "given up")
                self.assertEqual(list(find_errors(self.room.programme)), [])
                states = set(
                    TestAsked.objects.of(self.room.programme)
                    .filter(sample__visit=self.visit, sample__outcome="taken")
                    .values_list("state", flat=True)
                )
                self.assertEqual(states, {"done"} if sampled else set())
                summary = summary_of(self.visit)
                self.assertEqual((summary.out, summary.not_sampled), ([], []))
                with_figure = sum(test.has_figure for test in summary.tests)
                self.assertEqual(with_figure, int(done == len(steps)))
                for test in summary.tests:
                    self.assertTrue(test.has_figure or test.why_not == "no time")
                for page in ("report", "sheet"):
                    self.assertContains(self.client.get(self.url(page)), "Beck, at the weir")

    def test_what_has_no_reason_continues_later(self) -> None:
        """The visit is handed over, the test stays unfinished, and is said to be."""
        self.take()
        self.client.post(self.url("end"), {"note": "Nitrite is still standing."})
        self.assertEqual(Run.objects.of(self.room.programme).unfinished().count(), 2)
        said = " ".join(summary_of(self.visit).sentences)
        self.assertIn("is not finished yet", said)
        self.assertContains(self.client.get(self.url("report")), "Nitrite is still standing.")

    def test_handed_over_once(self) -> None:
        for _ in range(2):
            self.client.post(self.url("end"), {})
        ended = VisitEvent.objects.of(self.room.programme).filter(visit=self.visit, kind="ended")
        self.assertEqual(ended.count(), 1)

    def test_waste_and_stock(self) -> None:
        """Only of what was begun; volumes by route, with the programme's own words; drops counted
        down from the lot."""
        self.room.programme.waste = {"heavy-metal": "The red can."}
        self.room.programme.save()
        self.take()
        self.assertEqual(summary_of(self.visit).waste, ())
        self.whole_test()
        summary = summary_of(self.visit)
        self.assertEqual([one.route for one in summary.waste], ["heavy-metal"])
        [used] = summary.used
        self.assertEqual((used.name, used.words), ("silver nitrate, lot L-1", "16 drops"))
        page = self.client.get(self.url("end"))
        self.assertContains(page, "Here: The red can.")
        self.assertContains(page, "silver nitrate, lot L-1")

    def test_what_is_above_a_limit_comes_first(self) -> None:
        """With its value, the verdict, and how sure that is."""
        self.take()
        self.send(self.taps().count(38).count(38))
        result = Result.objects.get(run__sample=self.first)
        self.assertEqual(result.outcome_code, "beyond", set_at(self.room.point, AT))
        first = summary_of(self.visit).sentences[0]
        self.assertIn("above limit", first)
        report = self.client.get(self.url("report"))
        self.assertContains(report, result.current.value.range_text)
        self.assertContains(report, "long-term 120")

    def test_the_air_thermometer_is_read_last_and_comes_home(self) -> None:
        """(typed, what stands with the sample, what the report says of it); asked outdoors only."""
        self.take()
        self.assertContains(self.client.get(self.url("end")), "Read last, in the shade")
        asked = {"thermometer": "asked"}
        for typed, air_c, left in (
            ({}, None, True), ({"air_c": "warm"}, None, True), ({"air_c": "99"}, None, True),
            ({"air_c": "-3,5", "home": "yes"}, Decimal("-3.5"), False),
        ):  # fmt: skip
            with self.subTest(typed=typed), transaction.atomic():
                self.client.post(self.url("end"), asked | typed)
                self.first.refresh_from_db()
                self.assertEqual(self.first.air_c, air_c)
                told = self.client.get(self.url("report"))
                said = "thermometer was not taken home" in told.content.decode()
                self.assertEqual(said, left)
                self.assertEqual(list(find_errors(self.room.programme)), [])
                transaction.set_rollback(True)
        self.room.water.kind = "boiler"
        self.room.water.save()
        self.assertNotContains(self.client.get(self.url("end")), "Air thermometer")
