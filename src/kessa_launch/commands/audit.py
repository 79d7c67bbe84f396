"""./kessa audit verify [FILE]: whether the record holds; a file needs no database."""

from pathlib import Path

from kessa_launch.commands import manage


def run(arguments: list[str]) -> int:
    """Hand over to the management command; relative file names stay the caller's."""
    paths = [str(Path(a).resolve()) if Path(a).is_file() else a for a in arguments]
    return manage.run(["audit", *paths])
