"""./kessa demo: everything from a bare machine to a page with demo data."""

import json
import subprocess
import time
import urllib.error
import urllib.request

from kessa_launch import environment, older, ports
from kessa_launch.children import WORKER, StopRequested, kept_running, running, stop_politely
from kessa_launch.database import Database, as_owner
from kessa_launch.errors import LauncherError
from kessa_launch.locks import FileLock, hold
from kessa_launch.postgres import Cluster
from kessa_launch.state_paths import StatePaths, places


def run(arguments: list[str]) -> int:
    """Install, start, migrate, load, serve; stop in order on Ctrl-C. --reload for developers."""
    where = places()
    note = where.home / "demo.json"
    try:
        with hold(where.locks / "demo", wait=False):
            stop_politely()
            return _demo(where, reload="--reload" in arguments)
    except FileLock:
        address = json.loads(note.read_text())["address"] if note.exists() else "(just starting)"
        print(f"A demo of this clone is already running: {address}")
        return 1
    finally:
        print(end="", flush=True)


def _demo(where: StatePaths, *, reload: bool) -> int:
    cluster = Cluster(where, "demo")
    note = where.home / "demo.json"
    note.unlink(missing_ok=True)
    try:
        python = environment.ready(where)
        server = cluster.start()
        environ = environment.application(where, server.variables(), debug=reload)
        older.set_aside(Database(python, environ))
        manage = [str(python), "-m", "kessa"]
        if subprocess.run([*manage, "prepare", "--demo"], env=as_owner(environ)).returncode:
            raise LauncherError("The demo data could not be prepared; the lines above say why.")
        with ports.listening(8000) as held:
            port = held.getsockname()[1]
            address = f"http://127.0.0.1:{port}/"
            inherits: tuple[int, ...] = (held.fileno(),)
            serve = [
                str(python), "-m", "gunicorn", "kessa.wsgi", "--bind", f"fd://{held.fileno()}",
                "--workers", "2", "--threads", "4", "--worker-tmp-dir", "/dev/shm",
                "--log-level", "warning",
            ]  # fmt: skip
            if reload:
                serve, inherits = [*manage, "runserver", f"127.0.0.1:{port}"], ()
                held.close()
            worker = kept_running([*manage, *WORKER], environ)
            with worker, running(serve, environ, inherits) as child:
                _wait_until_up(address, child)
                note.write_text(json.dumps({"address": address}))
                subprocess.run([*manage, "demo_accounts", address], env=environ)
                status = child.wait()
        raise LauncherError(f"The server ended by itself (status {status}).")
    except StopRequested:
        print("\nStopping ...", flush=True)
        return 0
    finally:
        cluster.stop()
        note.unlink(missing_ok=True)


def _wait_until_up(address: str, child: subprocess.Popen[bytes]) -> None:
    until = time.monotonic() + 60
    while time.monotonic() < until and child.poll() is None:
        try:
            with urllib.request.urlopen(address, timeout=5):
                if child.poll() is None:
                    return
        except (urllib.error.URLError, OSError):
            time.sleep(0.1)
    raise LauncherError(
        "The server did not come up. If another program took its port, start again."
    )
