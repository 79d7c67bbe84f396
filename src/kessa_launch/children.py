"""Processes that never outlive the launcher, even when it is killed outright."""

import ctypes
import signal
import subprocess
import threading
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager

PR_SET_PDEATHSIG = 1
WORKER = ("procrastinate", "worker", "--concurrency", "2", "--delete-jobs", "successful")
"""What does the background work, two jobs at a time, as a command of the application."""


def _end_with_parent() -> None:
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGTERM)


@contextmanager
def running(
    command: Sequence[str], environ: Mapping[str, str], inherits: Sequence[int] = ()
) -> Iterator[subprocess.Popen[bytes]]:
    """Run *command* in a session of its own and end it, politely first, on leaving. *inherits*:
    file descriptors that it gets."""
    child = subprocess.Popen(
        command,
        env=environ,
        stdin=subprocess.DEVNULL,
        start_new_session=True,
        pass_fds=inherits,
        preexec_fn=_end_with_parent,
    )
    try:
        yield child
    finally:
        if child.poll() is None:
            child.terminate()
            try:
                child.wait(timeout=15)
            except subprocess.TimeoutExpired:
                child.kill()
                child.wait()


class StopRequested(BaseException):
    """The person or the system asked the launcher to stop."""


def stop_politely() -> None:
    """Turn the usual stop signals into Stopped, so that everything is left in order."""

    def stop(signum: int, _frame: object) -> None:
        for name in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(name, signal.SIG_IGN)
        raise StopRequested(signum)

    for name in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(name, stop)


@contextmanager
def kept_running(
    command: Sequence[str], environ: Mapping[str, str], pause_s: float = 5.0
) -> Iterator[None]:
    """Run *command* beside what the block does; begin it again, after a pause, when it ends."""
    leaving = threading.Event()

    def keep() -> None:
        while not leaving.is_set():
            with running(command, environ) as child:
                while child.poll() is None and not leaving.wait(0.2):
                    pass
            leaving.wait(pause_s)

    keeper = threading.Thread(target=keep, name="keeper")
    keeper.start()
    try:
        yield
    finally:
        leaving.set()
        keeper.join()
