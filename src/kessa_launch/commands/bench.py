"""./kessa bench NAME: run one of the benchmarks (or list them)."""

import os
import subprocess

from kessa_launch import environment
from kessa_launch.places import CLONE, places
from kessa_launch.postgres import Cluster

FOLDER = CLONE / "benchmarks"
FOLDERS = {"fill": "scale", "scale": "scale"}
"""Benchmarks with a database folder of their own; fill makes its folder anew."""


def run(arguments: list[str]) -> int:
    """Run benchmarks/NAME.py with a database folder of its own; without NAME, list them."""
    names = sorted(path.stem for path in FOLDER.glob("*.py"))
    if not arguments or arguments[0] not in names:
        print("Benchmarks: " + ", ".join(names))
        return 0 if not arguments else 2
    name = arguments[0]
    command = [f"benchmarks.{name}", *arguments[1:]]
    return with_database(command, FOLDERS.get(name, "bench"), fresh=name == "fill")


def with_database(command: list[str], name: str, *, fresh: bool = False) -> int:
    """Run a module and its arguments beside a server on the database folder *name*."""
    where = places()
    python = environment.ready(where)
    cluster = Cluster(where, name)
    if fresh:
        cluster.remove()
    try:
        environ = environment.application(
            where, cluster.start().variables(), static=f"{name}-static"
        )
        environ["PYTHONPATH"] += f"{os.pathsep}{CLONE}"
        return subprocess.run(
            [str(python), "-m", "tools.run", *command], env=environ, cwd=CLONE
        ).returncode
    finally:
        cluster.stop()
