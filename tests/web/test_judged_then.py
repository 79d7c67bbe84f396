"""What was judged stays as it was judged, whatever applies today."""

import csv
import io
import json
from datetime import timedelta
from unittest.mock import patch

from django.utils import timezone

from kessa.places.services import attach_limits, limits_in_force
from kessa.results.models import Evaluation
from kessa.verdicts.models import Verdict
from kessa.verdicts.services import current_verdicts
from tests.builders.rooms import RoomTest


class JudgedThen(RoomTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.result = cls.room.finished(days_ago=3)

    def setUp(self) -> None:
        self.client.force_login(self.room.people["reviewer"])

    def get(self, path: str) -> str:
        answer = self.client.get(self.room.url(path))
        body = b"".join(answer) if answer.streaming else answer.content
        return body.decode()

    def test_every_page_shows_the_limit_of_then(self) -> None:
        """Result, review, log, point, Today, CSV and the run's file, after the set is gone."""
        attach_limits(self.room.water, self.room.people["manager"], "")
        result = self.get(f"results/{self.result.pk}/")
        self.assertIn("within the long-term guideline of 120", result)
        self.assertIn("limits long-term 120, short-term 640", result)
        self.assertIn("With today’s limits:", result)
        self.assertIn("no limit set", result)
        self.assertIn("long-term 120", self.get(f"review/?result={self.result.pk}"))
        for path in ("log/", f"points/{self.room.point.pk}/", "today/", "waters/"):
            self.assertIn("limits long-term 120, short-term 640", self.get(path), path)
        row = next(csv.DictReader(io.StringIO(self.get("log.csv"))))
        self.assertEqual((row["verdict"], row["limit"]), ("within", "chloride-long"))
        context = json.loads(self.get(f"results/{self.result.pk}/events.jsonl").splitlines()[0])
        self.assertEqual([limit["max"] for limit in context["limits"]], ["120", "640"])

    def test_todays_verdict_is_not_shown_where_it_is_the_same(self) -> None:
        """Nothing stands beside a verdict that still holds."""
        self.assertNotIn("By the limits that apply", self.get(f"results/{self.result.pk}/"))

    def test_the_limit_is_the_one_in_force_at_sampling_time(self) -> None:
        """A set attached for the day before counts for what was sampled after it."""
        water, manager = self.room.water, self.room.people["manager"]
        yesterday = timezone.now() - timedelta(days=1)
        self.assertTrue(attach_limits(water, manager, "epa-freshwater", yesterday))
        self.assertFalse(attach_limits(water, manager, "epa-freshwater", yesterday))
        self.assertEqual(limits_in_force(water, yesterday), "epa-freshwater")
        before = yesterday - timedelta(seconds=1)
        self.assertEqual(limits_in_force(water, before), "ccme-freshwater")
        older = self.room.finished(days_ago=2)
        newer = self.room.finished()
        for result, limit_set in ((older, "ccme-freshwater"), (newer, "epa-freshwater")):
            verdict = current_verdicts(result)[0]
            self.assertEqual(verdict.limit.limit_set, limit_set)
            self.assertEqual(verdict.in_force_at, result.sampled_at)
            self.assertGreater(verdict.judged_at, verdict.in_force_at)

    def test_limits_are_read_again_when_the_process_forgot_them(self) -> None:
        """One known limit and others that are not, with no room to keep any: all are shown."""
        water, manager = self.room.water, self.room.people["manager"]
        yesterday = timezone.now() - timedelta(days=1)
        attach_limits(water, manager, "epa-freshwater", yesterday)
        newer = self.room.finished()
        with patch("kessa.verdicts.queries.MOST_KEPT", 0):
            for path in (f"results/{newer.pk}/", "log/", f"results/{self.result.pk}/", "log/"):
                shown = self.get(path)
        self.assertIn("long-term 120", shown)
        self.assertIn("chronic 230", shown)

    def test_a_limit_that_changes_makes_no_new_evaluation(self) -> None:
        """Evaluations know nothing of limits; each has one round of verdicts, one of them leads."""
        attach_limits(self.room.water, None, "")
        self.client.get(self.room.url(f"results/{self.result.pk}/"))
        self.assertEqual(Evaluation.objects.count(), 1)
        self.assertEqual(Verdict.objects.filter(leads=True).count(), 1)
        self.assertEqual(Verdict.objects.count(), 2)
