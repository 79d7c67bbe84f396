"""The project's own Python environment, built from the lock file."""

import hashlib
import os
import shutil
import subprocess
import sys
from pathlib import Path

from kessa_launch import debian
from kessa_launch.errors import LauncherError
from kessa_launch.locks import hold
from kessa_launch.state_paths import CLONE, SOURCE, StatePaths

LOCK = CLONE / "requirements.lock"


def ready(where: StatePaths) -> Path:
    """The environment's Python; builds the environment when the lock file has changed.

    The folder carries the lock's fingerprint and the stamp is written last, so a build that
    was killed is never mistaken for a finished one and a running server keeps its own.
    """
    folder = where.home / f"env-{_fingerprint()}"
    python = folder / "bin" / "python"
    if _whole(folder):
        return python
    with hold(where.locks / "environment", wait=True):
        if not _whole(folder):
            _build(folder)
            _forget_older(where, folder)
    return python


def variables(extra: dict[str, str] | None = None) -> dict[str, str]:
    """The environment variables every child gets: the source on the path, nothing in the clone."""
    kept = {key: value for key, value in os.environ.items() if key != "PYTHONHOME"}
    kept |= {"PYTHONPATH": str(SOURCE), "PYTHONDONTWRITEBYTECODE": "1", "KESSA_CLONE": str(CLONE)}
    return kept | (extra or {})


def application(
    where: StatePaths, database: dict[str, str], *, debug: bool = False, static: str = "static"
) -> dict[str, str]:
    """What the demo's application reads, beside variables(): database, key, folders."""
    return variables(
        database
        | {
            "KESSA_SECRET_KEY": where.secrets()["django"],
            "KESSA_STATIC_ROOT": str(where.home / static),
            "KESSA_MEDIA_ROOT": str(where.media),
            "KESSA_DEMO": "1",
            "KESSA_DEBUG": "1" if debug else "",
            "DJANGO_SETTINGS_MODULE": "kessa.settings",
        }
    )


def _fingerprint() -> str:
    version = f"{sys.version_info.major}.{sys.version_info.minor} {sys.base_prefix}"
    return hashlib.sha256(LOCK.read_bytes() + version.encode()).hexdigest()[:12]


def _whole(folder: Path) -> bool:
    return (folder / "stamp").exists() and (folder / "bin" / "python").exists()


def _build(folder: Path) -> None:
    print("Building the Python environment ...", flush=True)
    shutil.rmtree(folder, ignore_errors=True)
    if not _venv(folder):
        debian.install("python3-venv", why="Python cannot make an environment without ensurepip")
        shutil.rmtree(folder, ignore_errors=True)
        if not _venv(folder):
            raise LauncherError("python3 -m venv fails although python3-venv is installed.")
    command = [
        str(folder / "bin" / "python"), "-m", "pip", "install", "--quiet", "--no-deps",
        "--disable-pip-version-check", "--require-hashes", "--only-binary", ":all:",
        "--requirement", str(LOCK),
    ]  # fmt: skip
    done = subprocess.run(
        command, stdin=subprocess.DEVNULL, cwd="/", capture_output=True, text=True
    )
    if done.returncode:
        raise LauncherError(
            f"Installing the Python packages failed:\n{done.stderr.strip()[-2000:]}"
        )
    (folder / "stamp").write_text("whole\n")


def _venv(folder: Path) -> bool:
    command = [sys.executable, "-m", "venv", str(folder)]
    done = subprocess.run(command, stdin=subprocess.DEVNULL, capture_output=True, cwd="/")
    return done.returncode == 0


def _forget_older(where: StatePaths, current: Path) -> None:
    from kessa_launch.locks import is_held

    if any(is_held(where.locks / name) for name in ("demo", "test", "serve")):
        return
    for folder in where.home.glob("env-*"):
        if folder != current:
            shutil.rmtree(folder, ignore_errors=True)
