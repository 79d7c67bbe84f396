"""A database of a release before 0.5: recognised, set aside or refused, never a traceback."""

import io
import tempfile
from contextlib import redirect_stdout

from django.test import TransactionTestCase

from kessa_launch import older
from kessa_launch.errors import LauncherError
from tests.builders.databases import empty

TABLE = "CREATE TABLE accounts_programme (id bigint PRIMARY KEY)"


class Older(TransactionTestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.media = folder.name

    def test_it_is_set_aside_and_said(self) -> None:
        """Its tables are kept under another name; an empty database takes its place."""
        with empty("kessa_older", self.media) as database:
            database.sql(TABLE, database.name)
            self.assertTrue(older.is_older(database))
            out = io.StringIO()
            with redirect_stdout(out):
                older.set_aside(database)
            self.assertFalse(older.is_older(database))
            names = database.sql(
                "SELECT datname FROM pg_database WHERE datname LIKE 'kessa_older_before_0_5_%'"
            )
            self.assertIn(names, out.getvalue())
            self.assertTrue(older.is_older(database.named(names)))

    def test_one_that_somebody_chose_is_refused_in_words(self) -> None:
        """Nothing is changed."""
        with empty("kessa_chosen", self.media) as database:
            database.sql(TABLE, database.name)
            with self.assertRaisesMessage(
                LauncherError, "This backup was made by a release before 0.5"
            ):
                older.refuse(database, "This backup")
            self.assertTrue(older.is_older(database))

    def test_one_of_this_release_or_an_empty_one_is_left_alone(self) -> None:
        """Nothing is said."""
        with empty("kessa_newer", self.media) as database:
            for statement in ("SELECT 1", "CREATE TABLE platform_programme (id bigint)", TABLE):
                database.sql(statement, database.name)
                out = io.StringIO()
                with redirect_stdout(out):
                    older.set_aside(database)
                    older.refuse(database, "This database")
                self.assertEqual(out.getvalue(), "")
