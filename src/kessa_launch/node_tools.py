"""What checks styles and scripts, from the npm registry; nothing of it is shipped."""

import hashlib
import shutil
import subprocess
from pathlib import Path

from kessa_launch import debian
from kessa_launch.errors import LauncherError
from kessa_launch.locks import hold
from kessa_launch.state_paths import CLONE, StatePaths

LISTS = ("package.json", "package-lock.json")


def ready(where: StatePaths) -> Path:
    """The folder of the commands; installs them when the list of packages has changed.

    Raises LauncherError when npm cannot be had or the packages cannot be fetched.
    """
    texts = [(CLONE / name).read_bytes() for name in LISTS]
    folder = where.home / f"node-{hashlib.sha256(b''.join(texts)).hexdigest()[:12]}"
    stamp = folder / "whole"
    if not stamp.exists():
        with hold(where.locks / "node", wait=True):
            if not stamp.exists():
                _install(folder)
                stamp.touch()
    return folder / "node_modules" / ".bin"


def _install(folder: Path) -> None:
    if shutil.which("npm") is None:
        debian.install("nodejs", "npm", why="Styles and scripts are checked with npm's packages")
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    for name in LISTS:
        shutil.copy(CLONE / name, folder / name)
    print("Installing what checks styles and scripts ...", flush=True)
    command = ["npm", "ci", "--no-audit", "--no-fund", "--ignore-scripts", "--silent"]
    done = subprocess.run(command, cwd=folder, capture_output=True, text=True)
    if done.returncode:
        raise LauncherError(f"npm could not install them: {(done.stdout + done.stderr)[-2000:]}")
