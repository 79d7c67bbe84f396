"""A server with the demo's data for the benchmarks."""

import os
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager

PORT = 8199
ADDRESS = f"http://127.0.0.1:{PORT}"


@contextmanager
def serving() -> Iterator[str]:
    """Prepare the database, serve, stop."""
    subprocess.run([sys.executable, "-m", "kessa", "prepare", "--demo"], check=True)
    command = [sys.executable, "-m", "gunicorn", "kessa.wsgi", "--bind", f"127.0.0.1:{PORT}"]
    command += ["--workers", "2", "--threads", "4", "--log-level", "warning"]
    with subprocess.Popen(command, env=os.environ | {"KESSA_DB_AS": ""}) as server:
        try:
            for _ in range(200):
                try:
                    urllib.request.urlopen(ADDRESS, timeout=2).close()
                    break
                except (urllib.error.URLError, OSError):
                    time.sleep(0.1)
            yield ADDRESS
        finally:
            server.terminate()


def spread(times: list[float]) -> str:
    """Median, p95 and largest, in ms."""
    ordered = sorted(times)
    p95 = ordered[int(0.95 * (len(ordered) - 1))]
    return (
        f"median {ordered[len(ordered) // 2]:.2f} ms, p95 {p95:.2f} ms, most {ordered[-1]:.2f} ms"
    )
