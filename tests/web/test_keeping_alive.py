"""What keeps an installation alive: checks that find what is wrong, health, quiet logs."""

import json
import logging
import tempfile
from datetime import UTC
from pathlib import Path
from unittest.mock import patch

import time_machine
from django.db import OperationalError, connection
from django.test import TestCase, override_settings

from kessa.platform.health import checkup
from kessa.platform.logs import JsonLogFormatter
from kessa.platform.models import Membership, Programme
from tests.builders.people import PASSWORD, Room


class Checkup(TestCase):
    def wrong(self) -> dict[str, list[str]]:
        return {name: found for name, found in checkup() if found}

    def test_each_thing_that_can_be_wrong_is_named_with_its_remedy(self) -> None:
        """Nothing on a sound installation; then one fault after the other."""
        room = Room()
        today = time_machine.escape_hatch.datetime.datetime.now(tz=UTC)
        with (
            tempfile.TemporaryDirectory() as folder,
            override_settings(DEBUG=True, LOCAL=True),
            time_machine.travel(today),
        ):
            with override_settings(MEDIA_ROOT=folder):
                self.assertEqual(self.wrong(), {})
                Programme.objects.update(timezone="Nowhere/Land")
                self.assertIn("unknown time zone Nowhere/Land", self.wrong()["zones"][0])
                Membership.objects.filter(programme=room.programme).update(role="viewer")
                self.assertIn("has no manager", self.wrong()["managers"][0])
            with override_settings(MEDIA_ROOT=str(Path(folder) / "none")):
                self.assertIn("Make the folder writable", self.wrong()["folders"][0])
        with override_settings(LOCAL=True, STATIC_ROOT="/nowhere"):
            self.assertIn("were not collected", self.wrong()["folders"][-1])
        with override_settings(LOCAL=False, SECRET_KEY="short"):
            self.assertIn("SECRET_KEY", " ".join(self.wrong()["security"]))

    def test_a_silent_database_ends_the_checks(self) -> None:
        """One line that says where to look."""
        with patch.object(connection, "cursor", side_effect=OperationalError("refused")):
            found = list(checkup())
        self.assertEqual(len(found), 1)
        self.assertIn("Check KESSA_DB_* and that the server runs", found[0][1][0])


class Health(TestCase):
    def test_well_and_not(self) -> None:
        """200 with the release; 503 with one sentence and no detail."""
        self.assertTrue(self.client.get("/health/").json()["ok"])
        with patch(
            "kessa.platform.views.MigrationExecutor", side_effect=OperationalError("at 10.0.0.1")
        ):
            answer = self.client.get("/health/")
        self.assertEqual(answer.status_code, 503)
        self.assertNotIn("10.0.0.1", answer.content.decode())


class Logs(TestCase):
    def lines(self, logger: str, work) -> list[dict]:
        with self.assertLogs(logger, "INFO") as caught:
            work()
        return [json.loads(JsonLogFormatter().format(record)) for record in caught.records]

    def test_a_request_is_one_line_without_anything_personal(self) -> None:
        """Route, status, time and a number; no address, name, query or typed text."""
        room = Room()
        said = {"username": room.monitor.username, "password": PASSWORD + "secret"}
        lines = self.lines("kessa.requests", lambda: self.client.post("/sign-in/?next=/x", said))
        self.assertEqual(
            set(lines[0]),
            {"at", "level", "logger", "event", "request", "route", "method", "status", "ms"},
        )
        self.assertEqual((lines[0]["route"], lines[0]["status"]), ("sign-in/", 422))
        self.assertNotIn(room.monitor.username, json.dumps(lines))
        self.assertNotIn("127.0.0.1", json.dumps(lines))

    def test_an_error_says_where_and_not_what_was_typed(self) -> None:
        """The type of the error and its place; the message may quote somebody."""

        def work() -> None:
            try:
                raise ValueError("Tam Wetherill typed this")
            except ValueError:
                logging.getLogger("kessa.test").exception("failed for %s", "Tam Wetherill")

        line = self.lines("kessa.test", work)[0]
        self.assertEqual((line["error"], line["event"]), ("ValueError", "failed for %s"))
        self.assertIn("test_keeping_alive.py", line["where"][-1])
        self.assertNotIn("Tam", json.dumps(line))
