"""./kessa shots: take the pictures in docs/screenshots again, from fresh demo data."""

from kessa_launch import chromium
from kessa_launch.commands import bench


def run(_arguments: list[str]) -> int:
    """Runs tools/shots.py on a database folder of its own, emptied first."""
    chromium.ready()
    return bench.with_database(["tools.shots"], "shots", fresh=True)
