"""./kessa manage and the commands that need a database: Django's management commands."""

import os
import subprocess

from kessa_launch import environment
from kessa_launch.locks import is_held
from kessa_launch.places import CLONE, places
from kessa_launch.postgres import Cluster


def run(arguments: list[str]) -> int:
    """Run a management command against the demo's database (started for it when needed)."""
    where = places()
    python = environment.ready(where)
    cluster = Cluster(where, "demo")
    was_running = is_held(where.locks / "demo")
    server = cluster.start()
    debug = os.environ.get("KESSA_DEBUG", "1") == "1"
    environ = environment.application(where, server.variables(), debug=debug)
    try:
        command = [str(python), "-m", "kessa", *arguments]
        return subprocess.run(command, env=environ, cwd=CLONE).returncode
    finally:
        if not was_running:
            cluster.stop()
