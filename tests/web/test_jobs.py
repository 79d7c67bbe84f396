"""Background work: asked for with what it follows from, done once, and named when it is stuck."""

import os
import subprocess
import sys
from datetime import timedelta

from django.db import connection, transaction
from django.test import TestCase, TransactionTestCase
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from kessa.flows.health import jobs
from kessa.flows.jobs import ask_to_judge, waters_being_judged
from kessa.flows.limits import change_limits
from kessa.platform.models import AuditEntry
from kessa.verdicts.services import standing_verdicts
from kessa_launch.children import WORKER
from tests.builders.people import Room


class Worker(TransactionTestCase):
    """The worker itself, on the test database."""

    def test_it_judges_what_was_asked_for(self) -> None:
        """As the manager who asked, in one audit entry; the job is gone then."""
        room = Room()
        result, manager = room.finished(days_ago=3), room.people["manager"]
        start = timezone.now() - timedelta(days=5)
        change_limits(room.water, manager, "epa-freshwater", start)
        self.assertEqual(standing_verdicts(result)[0].limit.limit_set, "ccme-freshwater")
        name = {"KESSA_DB_NAME": connection.settings_dict["NAME"], "KESSA_DEMO": "1"}
        subprocess.run(
            [sys.executable, "-m", "kessa", *WORKER, "--one-shot"], check=True, timeout=60,
            env=os.environ | name | {"DJANGO_SETTINGS_MODULE": "kessa.settings"},
            capture_output=True,
        )  # fmt: skip
        self.assertEqual(standing_verdicts(result)[0].limit.limit_set, "epa-freshwater")
        entry = AuditEntry.objects.get(act="results.judged-again")
        self.assertEqual((entry.data["judged"], entry.person), (1, manager))
        self.assertFalse(ProcrastinateJob.objects.exists())


class Asked(TestCase):
    def setUp(self) -> None:
        self.room = Room()
        self.manager = self.room.people["manager"]

    def test_nothing_is_asked_for_by_what_was_undone(self) -> None:
        """The job is part of the transaction that asks for it."""
        try:
            with transaction.atomic():
                ask_to_judge(self.room.water, self.manager)
                raise ZeroDivisionError
        except ZeroDivisionError:
            pass
        self.assertEqual(waters_being_judged(self.room.programme), set())

    def test_another_programme_sees_none_of_it(self) -> None:
        """Its waters alone are named."""
        ask_to_judge(self.room.water, self.manager)
        self.assertEqual(waters_being_judged(Room(slug="south-room").programme), set())

    def test_what_waits_for_long_or_failed_is_named(self) -> None:
        """./kessa check says how to mend it."""
        ask_to_judge(self.room.water, self.manager)
        self.assertEqual(list(jobs()), [])
        with connection.cursor() as cursor:
            long_ago = timezone.now() - timedelta(minutes=16)
            cursor.execute("UPDATE procrastinate_events SET at = %s", [long_ago])
        self.assertIn("1 jobs have waited for over 15 minutes", next(jobs()))
        with connection.cursor() as cursor:
            cursor.execute("UPDATE procrastinate_jobs SET status = 'failed'")
        self.assertIn("1 jobs have failed", next(jobs()))
