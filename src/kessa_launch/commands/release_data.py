"""./kessa release-data: write tests/data/release-VERSION.sql.gz, for the upgrade tests to come."""

from kessa_launch.commands import bench


def run(_arguments: list[str]) -> int:
    """Runs tools/release_data.py on a database folder of its own, emptied first."""
    return bench.with_database(["tools.release_data"], "release", fresh=True)
