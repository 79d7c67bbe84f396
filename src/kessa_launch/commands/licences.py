"""./kessa licences: write docs/LICENCES.md again."""

import os
import subprocess

from kessa_launch import environment
from kessa_launch.state_paths import CLONE, places


def run(_arguments: list[str]) -> int:
    """Run tools/licences.py in the project's own environment."""
    python = environment.ready(places())
    environ = environment.variables()
    environ["PYTHONPATH"] += f"{os.pathsep}{CLONE}"
    command = [str(python), "-m", "tools.licences"]
    return subprocess.run(command, env=environ, cwd=CLONE).returncode
