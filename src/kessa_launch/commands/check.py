"""./kessa check: what is wrong with this installation, and how to mend it."""

import os
import shutil
import subprocess
import sys

from kessa_launch import environment
from kessa_launch.database import chosen
from kessa_launch.errors import LauncherError
from kessa_launch.postgres import BINARIES
from kessa_launch.state_paths import CLONE, StatePaths, places

ROOM_MB = 500


def run(_arguments: list[str]) -> int:
    """Check the machine, then the application with its database; status 1 if something is wrong."""
    where = places()
    wrong = [told for told in _machine(where) if told]
    for told in wrong:
        print(f"wrong  {told}")
    if not wrong:
        print("ok     machine: Python, PostgreSQL's programs, room on the disk, state folder")
    try:
        with chosen(where) as database:
            command = [str(database.python), "-m", "kessa", "checkup"]
            done = subprocess.run(command, env=database.environ, cwd=CLONE)
            return 1 if wrong or done.returncode else 0
    except LauncherError as trouble:
        print(f"wrong  {trouble}")
        return 1


def _machine(where: StatePaths) -> list[str]:
    free = shutil.disk_usage(where.home).free // 1_000_000
    has_server = any(BINARIES.glob("*/bin/postgres")) or os.environ.get("KESSA_DB_HOST")
    return [
        "" if sys.version_info >= (3, 11) else "Python is older than 3.11. Install python3.11.",
        "" if has_server else "PostgreSQL is not installed. ./kessa demo installs it.",
        ""
        if free > ROOM_MB
        else f"Only {free} MB are free on the disk of {where.home}. Make room.",
        "" if os.access(where.home, os.W_OK) else f"{where.home} cannot be written to.",
        "" if environment.LOCK.exists() else "requirements.lock is missing. Fetch the clone again.",
    ]
