"""Locks that end with the process that holds them; no pid files."""

import fcntl
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


class FileLock(Exception):
    """Another process holds the lock."""


@contextmanager
def hold(path: Path, *, wait: bool) -> Iterator[None]:
    """Hold the lock file at *path*; raise Held if it is taken and *wait* is false."""
    with path.open("a") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | (0 if wait else fcntl.LOCK_NB))
        except BlockingIOError as error:
            raise FileLock(path.name) from error
        yield


def is_held(path: Path) -> bool:
    """Whether some process holds the lock now."""
    try:
        with hold(path, wait=False):
            return False
    except FileLock:
        return True
