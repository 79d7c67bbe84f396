"""Backup and restore: taken while somebody writes, restored elsewhere, the same to the last bit."""

import io
import json
import tarfile
import tempfile
import threading
from contextlib import redirect_stdout
from pathlib import Path

from django.core.management import call_command
from django.db import connection
from django.test import SimpleTestCase, TransactionTestCase

from kessa.results.models import Result
from kessa_launch import archive
from kessa_launch.commands import backup, restore
from kessa_launch.errors import LauncherError
from tests.builders.databases import as_environment, connected_to, empty, this_one
from tests.builders.people import Room

PHOTO = b"a photograph, as bytes"


class Backup(TransactionTestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        (self.folder / "media" / "ab").mkdir(parents=True)
        (self.folder / "media" / "ab" / "abcd.jpg").write_bytes(PHOTO)
        self.room = Room()
        self.room.finished((7, 12, 8), days_ago=2)
        self.file = self.folder / "one.backup"

    def backup(self) -> str:
        with (
            as_environment(this_one(self.folder / "media")),
            redirect_stdout(io.StringIO()) as out,
        ):
            self.assertEqual(backup.run([str(self.file)]), 0)
        return out.getvalue()

    def restore(self, database, *flags: str) -> str:
        with as_environment(database), redirect_stdout(io.StringIO()) as out:
            self.assertEqual(restore.run([str(self.file), *flags]), 0)
        return out.getvalue()

    def test_taken_during_writes_and_restored_elsewhere(self) -> None:
        """The figures of the backup, of the restored database and of its audit are one. Nothing is
        overwritten: neither a file, nor records unless that is said; those are kept aside."""
        stop = threading.Event()

        def write() -> None:
            while not stop.is_set():
                self.room.finished(days_ago=1)
                stop.wait(0.2)
            connection.close()

        writer = threading.Thread(target=write)
        writer.start()
        try:
            told = self.backup()
        finally:
            stop.set()
            writer.join()
        self.assertRegex(told, r"4 people, [1-9]\d* runs, [1-9]\d* results, [1-9]\d* evaluations")
        self.assertIn("Verified", told)
        saved = archive.read(self.file).figures
        self.assertGreaterEqual(saved["counts"]["results.Result"], 1)
        self.assertLess(
            saved["counts"]["results.Result"],
            Result.objects.filter(programme=self.room.programme).count(),
        )
        elsewhere = self.folder / "elsewhere"
        with empty("kessa_elsewhere", elsewhere) as database:
            self.assertIn("1 files written", self.restore(database))
            with connected_to(database):
                call_command("audit", "verify", stdout=io.StringIO())
                figures = io.StringIO()
                call_command("figures", stdout=figures)
            self.assertEqual(json.loads(figures.getvalue()), saved)
            with as_environment(database), self.assertRaisesRegex(LauncherError, "kept aside"):
                restore.run([str(self.file)])
            self.assertIn("kessa_elsewhere_before_", self.restore(database, "--replace"))
        with self.assertRaisesRegex(LauncherError, "never over"):
            self.backup()
        self.assertEqual((elsewhere / "ab" / "abcd.jpg").read_bytes(), PHOTO)


class DamagedFile(SimpleTestCase):
    def setUp(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.file = folder / "one.backup"
        (folder / "media").mkdir()
        (folder / "database.dump").write_bytes(bytes(range(256)) * 40)
        archive.write(self.file, folder / "database.dump", folder / "media", {"figures": {}})

    def test_it_is_named(self) -> None:
        """A flipped byte, a cut file, something else altogether, a path that leads out."""
        whole = self.file.read_bytes()
        self.assertEqual(archive.read(self.file).figures, {})
        middle = len(whole) // 2
        flipped = whole[:middle] + bytes([whole[middle] ^ 1]) + whole[middle + 1 :]
        for content in (flipped, whole[: middle // 512 * 512], b"not a backup at all"):
            self.file.write_bytes(content)
            with self.assertRaisesRegex(LauncherError, "damaged|not a whole backup"):
                archive.read(self.file)
        with tarfile.open(self.file, "w") as evil:
            listed = b'{"format": "kessa-backup/1", "files": {"media/../../x": ""}, "figures": {}}'
            entry = tarfile.TarInfo(archive.LIST)
            entry.size = len(listed)
            evil.addfile(entry, io.BytesIO(listed))
        with self.assertRaisesRegex(LauncherError, "outside itself"):
            archive.read(self.file)
