"""./kessa bench NAME: run one of the benchmarks (or list them)."""

import os
import subprocess

from kessa_launch import environment
from kessa_launch.database import as_owner
from kessa_launch.postgres import Cluster
from kessa_launch.state_paths import CLONE, places

FOLDER = CLONE / "benchmarks"
FOLDERS = {
    "fill": "scale",
    "finding": "finding",
    "lighthouse": "lighthouse",
    "scale": "scale",
    "servers": "servers",
}
"""Benchmarks with a database folder of their own."""
FRESH = ("fill", "lighthouse", "servers")
"""Those that rebuild their folder."""
FOLLOWED = ("servers",)
"""Those that have a streaming replica beside their server."""


def run(arguments: list[str]) -> int:
    """Run benchmarks/NAME.py with a database folder of its own; without NAME, list them."""
    names = sorted(path.stem for path in FOLDER.glob("*.py"))
    if not arguments or arguments[0] not in names:
        print("Benchmarks: " + ", ".join(names))
        return 0 if not arguments else 2
    name = arguments[0]
    command = [f"benchmarks.{name}", *arguments[1:]]
    folder = FOLDERS.get(name, "bench")
    return with_database(command, folder, fresh=name in FRESH, followed=name in FOLLOWED)


def with_database(
    command: list[str], name: str, *, fresh: bool = False, followed: bool = False
) -> int:
    """Run a module and its arguments beside a server on the database folder *name*, and beside a
    streaming replica of it where it is *followed*."""
    where = places()
    python = environment.ready(where)
    cluster = Cluster(where, name)
    if fresh:
        cluster.remove()
    replica: Cluster | None = None
    try:
        variables = cluster.start().variables()
        if followed:
            replica = cluster.follow(f"{name}-replica")
            variables |= {
                "KESSA_REPLICA_HOST": "127.0.0.1",
                "KESSA_REPLICA_PORT": str(replica.start().port),
            }
        environ = environment.application(where, variables, static=f"{name}-static")
        environ["PYTHONPATH"] += f"{os.pathsep}{CLONE}"
        return subprocess.run(
            [str(python), "-m", "tools.run", *command], env=as_owner(environ), cwd=CLONE
        ).returncode
    finally:
        if replica:
            replica.stop()
        cluster.stop()
