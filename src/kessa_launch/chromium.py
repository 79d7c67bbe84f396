"""Chromium from Debian's packages, and what its driver needs beside it."""

from pathlib import Path

from kessa_launch import debian

CHROMIUM = Path("/usr/bin/chromium")
LIBRARIES = Path("/usr/lib")


def ready() -> None:
    """Install what is missing for tests and pictures in a browser.

    The driver's own node is linked to libatomic, which a bare Debian does not have.
    """
    missing = [] if CHROMIUM.exists() else ["chromium"]
    if not any(LIBRARIES.glob("*/libatomic.so.1*")):
        missing.append("libatomic1")
    if missing:
        debian.install(*missing, why="Tests and pictures in a browser need Chromium")
