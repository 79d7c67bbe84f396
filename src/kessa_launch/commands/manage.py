"""./kessa manage and the commands that need a database: Django's management commands."""

import os
import subprocess

from kessa_launch import environment
from kessa_launch.database import as_owner
from kessa_launch.locks import is_held
from kessa_launch.postgres import Cluster
from kessa_launch.state_paths import CLONE, places

OWNERS = {"migrate", "upgrade", "prepare", "makemigrations", "test"}
"""Commands that change tables."""


def run(arguments: list[str]) -> int:
    """Run a management command on the database that KESSA_DB_HOST names, else on the demo's."""
    where = places()
    python = environment.ready(where)
    command = [str(python), "-m", "kessa", *arguments]
    owned = set(arguments[:1]) & OWNERS
    if os.environ.get("KESSA_DB_HOST"):
        environ = environment.variables()
        return subprocess.run(
            command, env=as_owner(environ) if owned else environ, cwd=CLONE
        ).returncode
    cluster = Cluster(where, "demo")
    was_running = is_held(where.locks / "demo")
    server = cluster.start()
    debug = os.environ.get("KESSA_DEBUG", "1") == "1"
    environ = environment.application(where, server.variables(), debug=debug)
    try:
        return subprocess.run(
            command, env=as_owner(environ) if owned else environ, cwd=CLONE
        ).returncode
    finally:
        if not was_running:
            cluster.stop()
