"""./kessa calc, run, methods and plan: the core without database or network."""

import os

from kessa_launch import environment
from kessa_launch.state_paths import places


def run(arguments: list[str]) -> int:
    """Hand over to kessa_core.cli; relative file names stay relative to the caller's folder."""
    python = str(environment.ready(places()))
    os.execve(python, [python, "-m", "kessa_core.cli", *arguments], environment.variables())
