"""./kessa backup [FILE]: database and photographs in one file, verified by restoring a copy."""

import json
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

from kessa_launch import archive
from kessa_launch.database import Database, chosen
from kessa_launch.errors import LauncherError
from kessa_launch.locks import hold
from kessa_launch.state_paths import places


def run(arguments: list[str]) -> int:
    """Write the backup while the server continues; say what is in it."""
    where = places()
    now = datetime.now(UTC)
    path = Path(arguments[0]) if arguments else Path(f"kessa-{now:%Y-%m-%d-%H%M%S}.backup")
    if path.exists():
        raise LauncherError(f"{path} is there already; backups are never overwritten.")
    if not path.resolve().parent.is_dir():
        raise LauncherError(f"There is no folder {path.resolve().parent}.")
    with hold(where.locks / "backup", wait=True), chosen(where) as database:
        begun = time.monotonic()
        figures = _write(database, path, now)
        print(f"{path}: {path.stat().st_size / 1e6:.1f} MB in {time.monotonic() - begun:.1f} s")
        print(archive.summary(figures))
        print("Verified: every part read back, and a restored copy has these figures.")
    return 0


def _write(database: Database, path: Path, now: datetime) -> dict[str, object]:
    """Dump, restore the dump into a copy, take the copy's figures, write, read back."""
    with tempfile.TemporaryDirectory(prefix="kessa-backup-") as folder:
        dump = Path(folder) / archive.DUMP
        database.tool("pg_dump", "-Fc", "--no-owner", "-f", str(dump), database.name)
        with copy_of(database, dump) as copied:
            figures = copied.figures()
            audit = copied.manage("audit", "verify")
            heads = copied.manage("audit", "head")
        if audit.returncode:
            print(f"Warning, the audit does not hold:\n{audit.stderr.strip()}")
        if heads.returncode:
            raise LauncherError(f"The audit's heads cannot be read: {heads.stderr.strip()[-500:]}")
        about = {"made": now.isoformat(timespec="seconds"), "figures": figures}
        about["heads"] = json.loads(heads.stdout)
        archive.write(path, dump, database.media, about)
    archive.read(path)
    return figures


class copy_of:  # noqa: N801 - reads as a phrase where it is used
    """A database made from *dump* for the length of a block."""

    def __init__(self, database: Database, dump: Path) -> None:
        self.database, self.dump = database, dump
        self.copied = database.named(f"{database.name}_copy_{int(time.time())}")

    def __enter__(self) -> Database:
        self.database.sql(f'CREATE DATABASE "{self.copied.name}"')
        try:
            restore_dump(self.copied, self.dump)
        except LauncherError:
            self.__exit__()
            raise
        return self.copied

    def __exit__(self, *_: object) -> None:
        self.database.sql(f'DROP DATABASE "{self.copied.name}"')


def restore_dump(into: Database, dump: Path) -> None:
    """Fill an empty database from *dump*; all of it or nothing."""
    flags = ("--no-owner", "--no-privileges", "--exit-on-error", "--single-transaction")
    into.tool("pg_restore", *flags, "-d", into.name, str(dump))
