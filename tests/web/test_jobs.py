"""Background work: asked for with what it follows from, done once, and named when it is stuck."""

import os
import subprocess
import sys
from contextlib import closing
from datetime import timedelta
from queue import Queue
from threading import Thread

from django.db import connection, transaction
from django.test import TransactionTestCase
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from kessa.flows.health import jobs
from kessa.flows.jobs import ask_to_judge, how_far, waters_being_judged, work_at
from kessa.flows.judging import judge_waters
from kessa.flows.limits import change_limits
from kessa.platform.models import AuditEntry
from kessa.platform.progress import Progress, tell
from kessa.verdicts.services import current_verdicts
from kessa_launch.children import WORKER
from tests.builders.jobs import forget_jobs, run_jobs
from tests.builders.people import Room
from tests.builders.rooms import RoomTest


class Worker(TransactionTestCase):
    """The worker itself, on the test database."""

    def setUp(self) -> None:
        self.addCleanup(forget_jobs)

    def test_it_judges_what_was_asked_for(self) -> None:
        """As the manager who asked, in one audit entry; the job is gone then."""
        room = Room()
        result, manager = room.finished(days_ago=3), room.people["manager"]
        start = timezone.now() - timedelta(days=5)
        change_limits(room.water, manager, "epa-freshwater", start)
        self.assertEqual(current_verdicts(result)[0].limit.limit_set, "ccme-freshwater")
        name = {"KESSA_DB_NAME": connection.settings_dict["NAME"], "KESSA_DEMO": "1"}
        subprocess.run(
            [sys.executable, "-m", "kessa", *WORKER, "--one-shot"], check=True, timeout=60,
            env=os.environ | name | {"DJANGO_SETTINGS_MODULE": "kessa.settings"},
            capture_output=True,
        )  # fmt: skip
        self.assertEqual(current_verdicts(result)[0].limit.limit_set, "epa-freshwater")
        entry = AuditEntry.objects.get(act="results.judged-again")
        self.assertEqual((entry.data["judged"], entry.person), (1, manager))
        self.assertFalse(ProcrastinateJob.objects.filter(task_name="judge_water").exists())


class HowFar(TransactionTestCase):
    """What a job that is still at it tells others."""

    def setUp(self) -> None:
        self.addCleanup(forget_jobs)

    def test_others_read_how_far_it_has_come(self) -> None:
        """While its transaction is open, and no longer after it."""
        room = Room()
        room.finished(days_ago=3)
        told: Queue[None] = Queue()
        read: Queue[None] = Queue()

        def come_to(done: int, total: int) -> None:
            tell(work_at(room.water.pk), done, total)
            told.put(None)
            read.get(timeout=30)

        def work() -> None:
            with closing(connection):
                judge_waters(room.programme, [room.water], None, come_to)

        worker = Thread(target=work)
        worker.start()
        seen = []
        for _ in range(2):
            told.get(timeout=30)
            seen.append(how_far(room.water.pk))
            read.put(None)
        worker.join()
        self.assertEqual(seen, [Progress(0, 1), Progress(1, 1)])
        self.assertIsNone(how_far(room.water.pk))

    def test_the_list_of_waters_says_it(self) -> None:
        """A page in another connection, which asks again until the job is done."""
        room = Room()
        room.finished(days_ago=3)
        page = room.url(f"waters/{room.water.pk}/judging/")
        self.client.force_login(room.people["manager"])
        ask_to_judge(room.water, room.people["manager"])
        with closing(connection.copy()) as other, other.cursor() as cursor:
            name = f"kessa {work_at(room.water.pk)} 12000 50000"
            cursor.execute("SELECT set_config('application_name', %s, false)", [name])
            self.assertContains(self.client.get(page), "12,000 of 50,000 (24 %)")
            self.assertContains(self.client.get(page), "hx-trigger")
        run_jobs()
        done = self.client.get(page)
        self.assertContains(done, "Results have been compared with the new limits.")
        self.assertNotContains(done, "hx-trigger")


class Asked(RoomTest):
    def setUp(self) -> None:
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

    def test_a_job_that_was_given_up_is_said(self) -> None:
        """Not that it is done."""
        self.client.force_login(self.manager)
        ask_to_judge(self.room.water, self.manager)
        with connection.cursor() as cursor:
            cursor.execute("UPDATE procrastinate_jobs SET status = 'failed'")
        page = self.client.get(self.room.url(f"waters/{self.room.water.pk}/judging/"))
        self.assertContains(page, "Results could not be compared with the new limits")
        self.assertNotContains(page, "have been compared")
