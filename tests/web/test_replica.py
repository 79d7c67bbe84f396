"""Where exports and charts are read. `./kessa bench servers` reads from a replica that follows."""

from django.db import connections
from django.test import TestCase, TransactionTestCase

from kessa.platform.replica import reading_from
from tests.builders.people import Room


class WithoutOne(TestCase):
    def test_the_primary_is_read(self) -> None:
        """No second connection is asked for."""
        self.assertEqual(reading_from(), "default")


class WithOne(TransactionTestCase):
    def setUp(self) -> None:
        connections.settings["replica"] = connections.settings["default"]
        self.addCleanup(connections.settings.pop, "replica")
        self.replica = connections["default"].copy()
        connections["replica"] = self.replica
        self.addCleanup(connections.__delitem__, "replica")
        self.addCleanup(self.replica.close)

    def test_a_server_that_follows_none(self) -> None:
        """It may be anything; the primary is read."""
        with self.assertLogs("kessa.platform.replica", "WARNING") as told:
            self.assertEqual(reading_from(), "default")
        self.assertEqual(told.records[0].getMessage(), "replica.behind")

    def test_a_replica_that_is_away(self) -> None:
        """An export comes all the same, from the primary."""
        room = Room()
        room.finished()
        self.client.force_login(room.people["manager"])
        self.replica.settings_dict = self.replica.settings_dict | {"PORT": "1"}
        with self.assertLogs("kessa.platform.replica", "WARNING") as told:
            lines = b"".join(self.client.get(room.url("log.csv"))).splitlines()
        self.assertEqual(len(lines), 2)
        self.assertEqual(told.records[0].getMessage(), "replica.away")
