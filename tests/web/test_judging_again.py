"""Judging recorded results again: in SQL and in the core alike, sealed by one entry."""

import random
from datetime import timedelta
from decimal import Decimal

from django.db import connection
from django.utils import timezone

from kessa.flows.jobs import waters_being_judged
from kessa.flows.judging import judge_waters
from kessa.flows.limits import change_limits
from kessa.flows.reviewing import decide
from kessa.pages.bench.payload import answer
from kessa.platform.models import AuditEntry
from kessa.platform.scoping import request_scope
from kessa.platform.verify import find_errors
from kessa.results.models import Evaluation, Result
from kessa.results.projections import refresh_latest, series_of
from kessa.runs.services import state_of
from kessa.verdicts.models import Verdict
from kessa.verdicts.services import current_verdicts, judge_value
from kessa_core.judging import limit_set
from kessa_core.judging.context import PointContext
from tests.builders.jobs import run_jobs
from tests.builders.rooms import RoomTest

EDGES = (0.0, 99.5, 119.4, 119.5, 119.999, 120.0, 120.4, 120.5, 229.0, 230.0, 231.0, 640.0, 5e5)


class JudgingAgain(RoomTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.manager = cls.room.people["manager"]
        cls.result = cls.room.finished(days_ago=3)

    def draw(self, number: int, **columns: object) -> None:
        """More evaluations of results of their own, with figures drawn about every edge."""
        rng = random.Random(number)
        base = Evaluation.objects.values().get(pk=self.result.current_id)
        run = self.result.run
        for at in range(number):
            result = Result.objects.create(
                programme=self.room.programme, run=run, stage=f"drawn-{at}", parameter="chloride",
                point=self.room.point, sampled_at=self.result.sampled_at, status="provisional",
            )  # fmt: skip
            low, value, high = sorted(rng.choice(EDGES) for _ in range(3))
            decimals = rng.choice([0, 1])
            drawn = base | {
                "id": None, "result_id": result.pk, "number": value, "decimals": decimals,
                "low": rng.choice([low, low, None]), "high": rng.choice([high, high, None]),
                "qualifier": rng.choice(["", "", "<", ">"]), "one_sided": rng.random() < 0.5,
                "sure_low": rng.choice([low, value, None]), "sure_high": rng.choice([high, None]),
                "rounding": rng.choice(["half-up", "down", "up"]),
            }  # fmt: skip
            if rng.random() < 0.3:
                drawn |= {"bracket_low": low, "bracket_high": high}
            made = Evaluation(**(drawn | columns))
            made.reported = made.value.reported
            made.save()
            result.current = made
            result.save()
        refresh_latest([series_of(result)])

    def assert_as_the_core(self, limit_set_id: str) -> None:
        """Each current evaluation has the verdicts that the core gives it."""
        held = limit_set(limit_set_id)
        results = Result.objects.exclude(current__number=None).select_related("current")
        seen = set()
        for result in results:
            quantity = result.current.quantity
            context = PointContext(held.of_all([quantity])).of(quantity)
            wanted = judge_value(result.current.value, context)
            verdicts = current_verdicts(result)
            told = sorted((v.limit.limit_id, v.code, v.reported_code, v.leads) for v in verdicts)
            core = sorted(
                (one.limit.id, one.sign, one.reported_sign, one is wanted.leads)
                for one in wanted.verdicts
            )
            self.assertEqual(told, core, result.current.__dict__)
            self.assertEqual(result.outcome_code, wanted.code)
            seen |= {one[1:3] for one in core}
        self.assertGreater(len(seen), 6)

    def test_sql_judges_as_the_core_does(self) -> None:
        """400 drawn values about the limits: bounds, brackets, one-sided intervals, roundings."""
        self.draw(400)
        done = judge_waters(self.room.programme, [self.room.water], self.manager)
        self.assertEqual(done.judged, 400)
        self.assert_as_the_core("ccme-freshwater")
        again = judge_waters(self.room.programme, [self.room.water], self.manager)
        self.assertEqual(again.judged, 0)

    def test_a_unit_of_its_own_goes_through_the_core(self) -> None:
        """mmol/L against a limit in mg/L, also from a page."""
        self.draw(120, unit="mmol/L", basis="Cl")
        with request_scope():
            done = judge_waters(self.room.programme, [self.room.water], self.manager)
        self.assertEqual(done.judged, 120)
        for result in Result.objects.filter(current__unit="mmol/L").select_related("current"):
            held = limit_set("ccme-freshwater").of_all([result.current.quantity])
            context = PointContext(held).of(result.current.quantity)
            wanted = judge_value(result.current.value, context)
            self.assertEqual(result.outcome_code, wanted.code)

    def test_limits_from_a_day_on_judge_what_was_sampled_since(self) -> None:
        """A reviewed result whose verdict changes goes back to review; others keep theirs."""
        self.client.force_login(self.manager)
        older = self.room.finished((15, 14), days_ago=9)
        close = self.room.finished((15, 14), days_ago=2)
        for result in (older, close):
            decide(result, self.room.people["reviewer"], "accept", "", result.current_id)
        start = timezone.now() - timedelta(days=5)
        self.assertTrue(change_limits(self.room.water, self.manager, "epa-freshwater", start))
        self.assertEqual(waters_being_judged(self.room.programme), {self.room.water.pk})
        self.assertEqual(run_jobs(), [2])
        self.assertEqual(waters_being_judged(self.room.programme), set())
        codes = {}
        for result in (older, close, self.result):
            result.refresh_from_db()
            verdict = current_verdicts(result)[0]
            codes[result.pk] = (verdict.limit.limit_set, verdict.round, result.status)
        self.assertEqual(codes[older.pk], ("ccme-freshwater", 1, "reviewed"))
        self.assertEqual(codes[close.pk], ("epa-freshwater", 2, "provisional"))
        self.assertEqual(codes[self.result.pk], ("epa-freshwater", 2, "provisional"))
        close.refresh_from_db()
        self.assertEqual(close.reviews.first().reason, "compared with the new limits")
        said = answer(close.run, state_of(close.run))["results"][close.stage_of(close.run)]["t"]
        self.assertIn("within the chronic guideline of 230", said[0])
        page = self.client.get(self.room.url(f"results/{close.pk}/"))
        self.assertContains(page, "within the chronic guideline of 230")
        entry = AuditEntry.objects.get(act="results.judged-again")
        said = [entry.data[name] for name in ("judged", "changed", "reopened")]
        self.assertEqual(said, [2, 1, 1])

    def test_the_batch_is_sealed(self) -> None:
        """The record holds; a verdict that is changed afterwards is named, and one put in."""
        start = timezone.now() - timedelta(days=5)
        change_limits(self.room.water, self.manager, "epa-freshwater", start)
        run_jobs()
        programme = self.room.programme
        self.assertEqual(list(find_errors(programme)), [])
        with connection.cursor() as cursor:
            cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
            cursor.execute("ALTER TABLE verdicts_verdict DISABLE TRIGGER USER")
        verdict = Verdict.objects.exclude(batch="").first()
        Verdict.objects.filter(pk=verdict.pk).update(code="beyond")
        self.assertIn("a row of verdicts.Verdict was changed", str(list(find_errors(programme))))
        Verdict.objects.filter(pk=verdict.pk).delete()
        self.assertIn("rows of verdicts.Verdict were kept", str(list(find_errors(programme))))
        verdict.pk, verdict.batch = None, "another"
        verdict.save(force_insert=True)
        self.assertIn("never entered in the audit", str(list(find_errors(programme))))

    def test_from_the_page(self) -> None:
        """A manager says from which day the limits apply and is told what was judged again."""
        self.client.force_login(self.manager)
        url = self.room.url(f"waters/{self.room.water.pk}/change/")
        day = (timezone.now() - timedelta(days=5)).date()
        data = {
            "water_name": "Beck", "kind": "stream", "limit_set": "epa-freshwater",
            "limits_from": day.isoformat(),
        }  # fmt: skip
        page = self.client.post(url, data, follow=True)
        self.assertContains(page, "Results since that day are being compared with the new limits.")
        self.assertContains(page, "Results are being compared with the new limits")
        self.assertEqual(run_jobs(), [1])
        self.assertNotContains(self.client.get(self.room.url("waters/")), "being compared")
        audit = self.client.get(self.room.url("audit/"))
        self.assertContains(audit, "compared results with the new limits")
        wrong = self.client.post(url, data | {"limits_from": "soon"})
        self.assertContains(wrong, "Enter a valid date", status_code=422)
        self.assertEqual(Decimal(current_verdicts(self.result)[0].limit.data["max"]), 230)
