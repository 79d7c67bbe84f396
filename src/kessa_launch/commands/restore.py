"""./kessa restore FILE [--replace]: a backup becomes the database; what was there is kept aside."""

import os
import tempfile
import time
from pathlib import Path

from kessa_launch import archive, older
from kessa_launch.commands.backup import restore_dump
from kessa_launch.database import Database, chosen
from kessa_launch.errors import LauncherError
from kessa_launch.locks import is_held
from kessa_launch.state_paths import StatePaths, places


def run(arguments: list[str]) -> int:
    """Check the file, restore beside the database, compare, migrate, and only then change over."""
    files = [name for name in arguments if not name.startswith("-")]
    if len(files) != 1:
        raise LauncherError("Say which file: ./kessa restore FILE [--replace]")
    where = places()
    _nobody_serves(where)
    backup = archive.read(Path(files[0]))
    with chosen(where) as database:
        _change_over(database, backup, replace="--replace" in arguments)
    return 0


def _nobody_serves(where: StatePaths) -> None:
    name = "serve" if os.environ.get("KESSA_DB_HOST") else "demo"
    if is_held(where.locks / name):
        raise LauncherError(f"./kessa {name} of this clone is running. Stop it first.")


def _change_over(database: Database, backup: archive.Backup, *, replace: bool) -> None:
    there = database.sql("SELECT to_regclass('platform_programme')", database.name)
    any_row = "SELECT 1 FROM platform_programme LIMIT 1"
    if there and not replace and database.sql(any_row, database.name):
        raise LauncherError(
            "There are records here. With --replace they are kept aside, not deleted."
        )
    stamp = int(time.time())
    fresh = database.named(f"{database.name}_restored_{stamp}")
    database.sql(f'CREATE DATABASE "{fresh.name}"')
    try:
        _fill(fresh, backup)
    except LauncherError:
        database.sql(f'DROP DATABASE "{fresh.name}"')
        raise
    aside = f"{database.name}_before_{stamp}"
    database.sql(f'ALTER DATABASE "{database.name}" RENAME TO "{aside}"')
    database.sql(f'ALTER DATABASE "{fresh.name}" RENAME TO "{database.name}"')
    written = backup.unpack_media(database.media)
    print(f"Restored what was saved on {backup.listed['made']}; {written} files written.")
    print(backup.summary)
    print(f"The figures are those of the backup. What was here before is the database {aside}.")


def _fill(fresh: Database, backup: archive.Backup) -> None:
    with tempfile.TemporaryDirectory(prefix="kessa-restore-") as folder:
        dump = Path(folder) / archive.DUMP
        backup.unpack_dump(dump)
        restore_dump(fresh, dump)
    older.refuse(fresh, "This backup")
    found = fresh.figures()
    if found != backup.figures:
        raise LauncherError(
            "The restored copy differs from the backup's figures; nothing was changed."
        )
    done = fresh.manage("upgrade")
    if done.returncode:
        raise LauncherError(
            f"The backup could not be brought to this release:\n{done.stderr[-1500:]}"
        )
