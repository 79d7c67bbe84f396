"""./kessa lock: rebuild requirements.lock from pyproject.toml."""

import subprocess
import tempfile
import venv
from pathlib import Path

from kessa_launch.state_paths import CLONE


def run(_arguments: list[str]) -> int:
    """Resolve for Python 3.11 and newer on every platform, with the hashes of all wheels."""
    with tempfile.TemporaryDirectory() as folder:
        venv.create(folder, with_pip=True)
        tools = Path(folder) / "bin"
        subprocess.run([tools / "pip", "install", "--quiet", "uv"], check=True)
        return subprocess.run(
            [
                tools / "uv", "pip", "compile", "pyproject.toml", "--group", "dev", "--universal",
                "--python-version", "3.11", "--generate-hashes", "--no-annotate", "--quiet",
                "--custom-compile-command", "./kessa lock", "-o", "requirements.lock",
            ],
            cwd=CLONE,
        ).returncode  # fmt: skip
