"""A full disk, or a database that is away: said to people, to the bench and to a monitor."""

import tempfile

from django.db import DatabaseError, OperationalError, connection, transaction
from django.test import Client, RequestFactory, override_settings

from kessa.platform.health import checkup
from kessa.platform.trouble import AWAY, FULL, server_error, words_of
from kessa.runs.models import Event
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps

FILL = """
CREATE FUNCTION full_disk() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN RAISE EXCEPTION 'could not extend file' USING ERRCODE = '53100'; END $$;
CREATE TRIGGER full_disk BEFORE INSERT ON {table} FOR EACH ROW EXECUTE FUNCTION full_disk();
"""


class FullDisk(RoomTest):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.enterContext(override_settings(MEDIA_ROOT=folder.name))
        self.client = Client(raise_request_exception=False)
        self.client.force_login(self.room.people["manager"])

    def fill(self, table: str) -> None:
        with connection.cursor() as cursor:
            cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
            cursor.execute(FILL.format(table=table))

    def make_room(self, table: str) -> None:
        with connection.cursor() as cursor:
            cursor.execute(f"DROP TRIGGER full_disk ON {table}")

    def test_health_says_it(self) -> None:
        """Well before, not while nothing can be written, well again."""
        self.assertEqual(self.client.get("/health/").json()["ok"], True)
        self.fill("django_session")
        answer = self.client.get("/health/")
        self.assertEqual((answer.status_code, answer.json()["wrong"]), (503, FULL))
        self.assertTrue(any(FULL in one for _, found in checkup() for one in found))
        self.make_room("django_session")
        self.assertEqual(self.client.get("/health/").json()["ok"], True)

    def test_acts_are_answered_with_what_is_wrong_and_kept_later(self) -> None:
        """503 with one sentence; nothing is half kept; sent again they are kept once. Whoever asks
        meanwhile is told what happened."""
        run = self.room.new_run()
        sent = {"events": [e.as_json() for e in Taps(run=str(run.pk)).before().events]}
        self.fill("runs_event")
        for _ in range(2):
            answer = self.client.post(self.room.url("events/"), sent, "application/json")
            self.assertEqual((answer.status_code, answer.json()), (503, {"error": FULL}))
        self.assertEqual(Event.objects.count(), 0)
        self.assertEqual(self.client.get("/health/").json()["wrong"], FULL)
        self.make_room("runs_event")
        answer = self.client.post(self.room.url("events/"), sent, "application/json")
        self.assertEqual(len(answer.json()["kept"]), len(sent["events"]))

    def test_a_page_says_it(self) -> None:
        self.fill("library_lot")
        typed = {"reagent": "silver nitrate", "number": "L-2"}
        answer = self.client.post(self.room.url("library/lots/new/"), typed)
        self.assertContains(answer, FULL, status_code=503)

    def test_a_database_that_is_away(self) -> None:
        """Found out before any view is reached: the same answer, by whoever asks."""
        page = RequestFactory().get("/")
        bench = RequestFactory().post("/append/", "{}", "application/json")
        for error, status in ((OperationalError("refused"), 503), (ValueError("ours"), 500)):
            for request in (page, bench):
                try:
                    raise error
                except Exception:
                    answer = server_error(request)
                with self.subTest(error=error, path=request.path):
                    self.assertEqual(answer.status_code, status)
                    self.assertEqual(AWAY in answer.content.decode(), status == 503)

    def test_other_errors_are_not_called_so(self) -> None:
        """A mistake of ours stays one; a lost connection is named."""
        self.assertEqual(words_of(ValueError("x")), "")
        for code, words in (("23505", ""), ("22003", ""), ("57P01", AWAY), ("08006", AWAY)):
            raised = f"DO $$ BEGIN RAISE EXCEPTION USING ERRCODE = '{code}'; END $$"
            with self.subTest(code):
                with (
                    self.assertRaises(DatabaseError) as caught,
                    transaction.atomic(),
                    connection.cursor() as cursor,
                ):
                    cursor.execute(raised)
                self.assertEqual(words_of(caught.exception), words)
