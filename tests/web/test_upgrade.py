"""What a release wrote, read by this one: its backup restored, migrated, and held against its log.

tests/data/releases/ holds, of each release, the backup of a fresh demo (./kessa backup FILE) and
the log of that database as CSV (tests.builders.whole_log). Migrations begin anew no more: a change
of the schema is a migration that this test runs.
"""

import csv
import subprocess
import tempfile
from io import StringIO
from pathlib import Path

from django.core.management import call_command
from django.test import TestCase, TransactionTestCase

from kessa_launch import archive
from kessa_launch.commands.backup import restore_dump
from kessa_launch.database import Database
from tests.builders.databases import empty

FOLDER = Path(__file__).parents[1] / "data" / "releases"
ADDED_SINCE = {"0.5.0": {"results_evaluation": "instruments = '[{}]'"}}
"""By release: the sealed tables that have a column more now, and a change of it."""
CLONE = Path(__file__).parents[2]


def log_of(database: Database) -> list[dict[str, str]]:
    """Every result of the demo's programme."""
    command = [str(database.python), "-m", "tools.run", "tests.builders.whole_log", "lowen-vale"]
    done = subprocess.run(
        command, env=database.environ, cwd=CLONE, capture_output=True, text=True, check=True
    )
    return list(csv.DictReader(done.stdout.splitlines()))


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
                upgraded = database.manage("upgrade")
                self.assertEqual(upgraded.returncode, 0, upgraded.stderr)
                with log.open(encoding="utf-8", newline="") as file:
                    was = list(csv.DictReader(file))
                self.assert_same(was, log_of(database))
                verified = database.manage("audit", "verify")
                self.assertEqual(verified.returncode, 0, verified.stderr)
                rebuilt = database.manage("rebuild_projections")
                self.assertEqual(rebuilt.returncode, 0, rebuilt.stderr)
                self.assert_same(was, log_of(database))
                self.assert_named(database, ADDED_SINCE.get(log.stem, {}))

    def assert_named(self, database: Database, columns: dict[str, str]) -> None:
        """What is written into columns that were added since is named, though no seal of that
        time covers them."""
        for table, change in columns.items():
            database.sql(
                f"ALTER TABLE {table} DISABLE TRIGGER USER; UPDATE {table} SET {change} "
                f"WHERE id = (SELECT min(id) FROM {table})",
                database.name,
            )
            verified = database.manage("audit", "verify")
            self.assertEqual(verified.returncode, 1, verified.stdout)
            self.assertIn("holds what no column had when it was sealed", verified.stderr)

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
