"""The database a command works on: the one that the environment names, else the demo's."""

import json
import os
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from kessa_launch import debian, environment
from kessa_launch.errors import LauncherError
from kessa_launch.locks import is_held
from kessa_launch.postgres import BINARIES, Cluster
from kessa_launch.state_paths import CLONE, StatePaths


@dataclass(frozen=True)
class Database:
    """Where a database is and how the application gets at it."""

    python: Path
    environ: dict[str, str]

    @property
    def name(self) -> str:
        return self.environ["KESSA_DB_NAME"]

    @property
    def media(self) -> Path:
        return Path(self.environ["KESSA_MEDIA_ROOT"])

    def named(self, name: str) -> "Database":
        """Another database of the same server."""
        return replace(self, environ=self.environ | {"KESSA_DB_NAME": name})

    def tool(self, tool: str, *arguments: str) -> subprocess.CompletedProcess[str]:
        """Run one of PostgreSQL's programs as the owner's role. Raises Trouble."""
        environ = environment.variables(
            {
                "PGHOST": self.environ["KESSA_DB_HOST"],
                "PGPORT": self.environ.get("KESSA_DB_PORT", "5432"),
                "PGUSER": self.environ["KESSA_DB_USER"],
                "PGPASSWORD": self.environ.get("KESSA_DB_PASSWORD", ""),
            }
        )
        done = subprocess.run(
            [str(_newest() / tool), *arguments], env=environ, capture_output=True, text=True
        )
        if done.returncode:
            raise LauncherError(f"{tool} failed: {done.stderr.strip()[-1500:]}")
        return done

    def sql(self, statement: str, database: str = "postgres") -> str:
        """Run one statement and hand back what it prints."""
        flags = ("-X", "-q", "-A", "-t", "-v", "ON_ERROR_STOP=1")
        return self.tool("psql", *flags, "-d", database, "-c", statement).stdout.strip()

    def manage(self, *arguments: str) -> subprocess.CompletedProcess[str]:
        """Run a management command on this database, as its owner."""
        command = [str(self.python), "-m", "kessa", *arguments]
        return subprocess.run(
            command, env=as_owner(self.environ), cwd=CLONE, capture_output=True, text=True
        )

    def figures(self) -> dict[str, Any]:
        """Counts and hashes of the records. Raises Trouble where they cannot be read."""
        done = self.manage("figures")
        if done.returncode:
            raise LauncherError(f"The records cannot be read: {done.stderr.strip()[-1500:]}")
        found: dict[str, Any] = json.loads(done.stdout)
        return found


def as_owner(environ: dict[str, str]) -> dict[str, str]:
    """The same, signing in as the owner of the tables."""
    return environ | {"KESSA_DB_AS": "owner"}


@contextmanager
def chosen(where: StatePaths) -> Iterator[Database]:
    """The database that KESSA_DB_HOST and its kin name, else the demo's, started if need be."""
    python = environment.ready(where)
    if os.environ.get("KESSA_DB_HOST"):
        media = os.environ.get("KESSA_MEDIA_ROOT", str(where.media))
        yield Database(python, environment.variables({"KESSA_MEDIA_ROOT": media}))
        return
    cluster = Cluster(where, "demo")
    was_running = is_held(where.locks / "demo")
    try:
        yield Database(python, environment.application(where, cluster.start().variables()))
    finally:
        if not was_running:
            cluster.stop()


def _newest() -> Path:
    found = {path.parent.parent.name: path.parent for path in BINARIES.glob("*/bin/pg_dump")}
    if not found:
        debian.install("postgresql-client", why="Backups need PostgreSQL's own programs")
        found = {path.parent.parent.name: path.parent for path in BINARIES.glob("*/bin/pg_dump")}
    return found[max(found, key=float)]
