"""What a release wrote, read by this one: its backup restored, migrated, and held against its log.

tests/data/releases/ holds, of each release, the backup of a fresh demo (./kessa backup FILE) and
the log of that database as CSV (tests.builders.whole_log). Migrations begin anew no more: a change
of the schema is a migration that this test runs.
"""

import csv
import tempfile
from io import StringIO
from pathlib import Path

from django.core.management import CommandError, call_command
from django.db import connection
from django.test import TestCase, TransactionTestCase

from kessa.pages.log.csv_file import pieces
from kessa.platform.models import Programme
from kessa.results.models import Result
from kessa_launch import archive
from kessa_launch.commands.backup import restore_dump
from kessa_launch.database import Database
from tests.builders.databases import connected_to, empty

FOLDER = Path(__file__).parents[1] / "data" / "releases"
ADDED_SINCE = {"0.5.0": {"results_evaluation": "instruments = '[{}]'"}}
"""By release: the sealed tables that have a column more now, and a change of it."""


def log_now() -> list[dict[str, str]]:
    """Every result of the demo's programme."""
    results = Result.objects.of(Programme.objects.get(slug="lowen-vale"))
    return list(csv.DictReader(StringIO(b"".join(pieces(results)).decode("utf-8-sig"))))


class Migrations(TestCase):
    def test_every_change_of_a_model_has_its_migration(self) -> None:
        """makemigrations would write none; it ends with an error when it would."""
        said = StringIO()
        call_command("makemigrations", "--check", "--dry-run", stdout=said)
        self.assertIn("No changes detected", said.getvalue())


class Upgrade(TransactionTestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.scratch = Path(folder.name)

    def test_every_release_is_read(self) -> None:
        """No recorded result changes, the audit holds, projections made anew say the same."""
        kept = sorted(FOLDER.glob("*.csv"))
        self.assertGreaterEqual(len(kept), 2)
        for log in kept:
            with self.subTest(log.stem), empty("kessa_upgrade", self.scratch) as database:
                self.restore(log.with_suffix(".kessa"), database)
                with log.open(encoding="utf-8", newline="") as file:
                    was = list(csv.DictReader(file))
                with connected_to(database):
                    call_command("upgrade")
                    self.assert_same(was, log_now())
                    call_command("audit", "verify", stdout=StringIO())
                    call_command("rebuild_projections", stdout=StringIO())
                    self.assert_same(was, log_now())
                    self.assert_named(ADDED_SINCE.get(log.stem, {}))

    def assert_named(self, columns: dict[str, str]) -> None:
        """What is written into columns that were added since is named, though no seal of that
        time covers them."""
        for table, change in columns.items():
            with connection.cursor() as cursor:
                cursor.execute(
                    f"ALTER TABLE {table} DISABLE TRIGGER USER; UPDATE {table} SET {change} "
                    f"WHERE id = (SELECT min(id) FROM {table})"
                )
            said = StringIO()
            with self.assertRaises(CommandError):
                call_command("audit", "verify", stdout=StringIO(), stderr=said)
            self.assertIn("holds what no column had when it was sealed", said.getvalue())

    def restore(self, backup: Path, database: Database) -> None:
        """Fill the database from a backup."""
        dump = self.scratch / "database.dump"
        archive.read(backup).unpack_dump(dump)
        restore_dump(database, dump)

    def assert_same(self, was: list[dict[str, str]], now: list[dict[str, str]]) -> None:
        """Every column that the release had says what it said."""
        self.assertGreater(len(was), 50)
        self.assertEqual(len(was), len(now))
        for before, after in zip(was, now, strict=True):
            for name in before:
                self.assertEqual((name, before[name]), (name, after[name]))
