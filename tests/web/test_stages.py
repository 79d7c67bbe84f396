"""Results by stage, lots with a table, and what a reviewer hears of a sample that stood."""

import csv
import io
from datetime import timedelta

from kessa.flows.receiving import keep
from kessa.library.models import Lot
from kessa.pages.log.review_warnings import review_warnings
from kessa.results.models import Result
from kessa.verdicts.services import attach_verdicts
from kessa_core.methods import shipped
from tests.builders.rooms import RoomTest
from tests.builders.runs import START, Taps


class Stages(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def play(self, method: str) -> Taps:
        run = self.room.new_run(method=method)
        return Taps(shipped(method), run=str(run.pk)).before()

    def send(self, taps: Taps) -> list[Result]:
        keep(self.room.programme, self.room.monitor, [event.as_json() for event in taps.events])
        results = Result.objects.filter(run_id=taps.run).select_related("current")
        return list(results.order_by("pk"))

    def test_every_stage_and_difference_is_a_result(self) -> None:
        """In log, CSV and on pages of their own; sent twice they are the same."""
        taps = self.play("chlorine-photometer").read("0.34").on_to(1).read("0.62")
        results = self.send(taps)
        self.assertEqual([r.stage for r in results], ["free", "total", "combined"])
        self.assertEqual([r.pk for r in self.send(taps)], [r.pk for r in results])
        self.assertEqual([r.evaluations.count() for r in results], [1, 1, 1])
        body = b"".join(self.client.get(self.room.url("log.csv"))).decode("utf-8")
        rows = {row["stage"]: row for row in csv.DictReader(io.StringIO(body, newline=""))}
        self.assertEqual(rows["combined"]["value"], "0.28")
        self.assertEqual(rows["combined"]["how"], "difference")
        page = self.client.get(self.room.url(f"results/{results[2].pk}/"))
        self.assertContains(page, "0.62 − 0.34 = 0.28 mg/L as Cl₂")

    def test_a_stage_that_was_never_begun_makes_no_result(self) -> None:
        """Stopped after the first."""
        results = self.send(self.play("alkalinity-titrator").read("40").act("stop", cause="done"))
        self.assertEqual([(r.stage, r.current.finish) for r in results], [("p", "done")])

    def test_a_run_without_any_reading_is_counted(self) -> None:
        """Not applicable, or not tested: an answer for every stage, none for the difference."""
        for data in ({"finish": "not-applicable", "cause": "glycol"}, {"cause": "out of kit"}):
            with self.subTest(data=data):
                results = self.send(self.play("chlorine-photometer").act("stop", **data))
                finish = data.get("finish", "not-tested")
                self.assertEqual(
                    [(r.stage, r.current.finish, r.current.cause) for r in results],
                    [("free", finish, data["cause"]), ("total", finish, data["cause"])],
                )

    def test_a_lot_brings_its_table(self) -> None:
        """Noted with it, used by the next run, carried in the run's file."""
        form = {"reagent": "chloride strips", "number": "S-1", "table": "3.0 90\n3.2 97\n3.6 121"}
        reagents = [r.name for r in shipped("chloride-strip-height").reagents if r.lot]
        self.room.new_run(method="chloride-strip-height")
        answer = self.client.post(
            self.room.url("library/lots/new/"), form | {"reagent": reagents[0]}
        )
        self.assertEqual(answer.status_code, 302)
        self.assertEqual(len(Lot.objects.get(number="S-1").table), 3)
        result = self.send(self.play("chloride-strip-height").read("3.4"))[0]
        self.assertIn("closest row of lot S-1: 121 mg/L", result.current.working)
        address = self.room.url(f"results/{result.pk}/events.jsonl")
        self.assertContains(self.client.get(address), '"table": [["3.0", "90"]')

    def test_a_table_that_does_not_rise_stays_typed(self) -> None:
        """The line is named."""
        self.room.new_run(method="chloride-strip-height")
        form = {"reagent": "x", "number": "S-2", "table": "3 90\n2 97\n4 121"}
        answer = self.client.post(self.room.url("library/lots/new/"), form)
        self.assertContains(answer, "Line 2 does not rise", status_code=422)
        self.assertContains(answer, "3 90\n2 97", status_code=422)

    def test_a_sample_that_stood_too_long_is_said(self) -> None:
        """Against what the method asks, not against a day."""
        result = self.send(self.play("chlorine-photometer").read("0.34").on_to(1).read("0.62"))[0]
        attach_verdicts([result])
        result.sampled_at = START - timedelta(hours=5)
        within = shipped("chlorine-photometer").sample.start_words
        self.assertIn(f"Tested 5 h after sampling. The method allows {within}.",
                      review_warnings(result, ()))  # fmt: skip
        result.sampled_at = START
        self.assertFalse(any("after sampling" in said for said in review_warnings(result, ())))
