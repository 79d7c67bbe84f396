"""./kessa serve: the production way. Settings come from the environment (docs/SERVE.md)."""

import os
import subprocess

from kessa_launch import environment, older
from kessa_launch.children import WORKER, StopRequested, kept_running, running, stop_politely
from kessa_launch.database import Database, as_owner
from kessa_launch.errors import LauncherError
from kessa_launch.locks import FileLock, hold
from kessa_launch.state_paths import places

NEEDED = ("KESSA_SECRET_KEY", "KESSA_HOSTS", "KESSA_DB_HOST", "KESSA_DB_NAME", "KESSA_DB_USER",
          "KESSA_DB_APP_USER")  # fmt: skip


def run(arguments: list[str]) -> int:
    """Check the settings, migrate, collect styles and scripts, run gunicorn."""
    missing = [name for name in NEEDED if not os.environ.get(name)]
    if missing:
        raise LauncherError(f"Set {', '.join(missing)} first; docs/SERVE.md explains each.")
    where = places()
    stop_politely()
    try:
        with hold(where.locks / "serve", wait=False):
            python = environment.ready(where)
            environ = environment.variables(
                {
                    "KESSA_STATIC_ROOT": os.environ.get("KESSA_STATIC_ROOT", str(where.static)),
                    "KESSA_MEDIA_ROOT": os.environ.get("KESSA_MEDIA_ROOT", str(where.media)),
                    "KESSA_LOG_REQUESTS": os.environ.get("KESSA_LOG_REQUESTS", "1"),
                }
            )
            older.refuse(Database(python, environ), "This database")
            manage = [str(python), "-m", "kessa"]
            checked = [*manage, "check", "--deploy", "--fail-level", "WARNING"]
            for step in (checked, [*manage, "prepare"]):
                if subprocess.run(step, env=as_owner(environ)).returncode:
                    raise LauncherError("Not started; the lines above say what to mend.")
            server = [str(python), "-m", "gunicorn", "kessa.wsgi", *_options(arguments)]
            with kept_running([*manage, *WORKER], environ), running(server, environ) as child:
                return child.wait()
    except FileLock:
        raise LauncherError("This clone is already being served.") from None
    except StopRequested:
        return 0


def _options(arguments: list[str]) -> list[str]:
    options = ["--bind", os.environ.get("KESSA_BIND", "127.0.0.1:8000"), "--workers", "3"]
    options += ["--threads", "4", "--worker-tmp-dir", "/dev/shm", "--log-level", "warning"]
    for option, name in (("--certfile", "KESSA_TLS_CERT"), ("--keyfile", "KESSA_TLS_KEY")):
        if value := os.environ.get(name):
            options += [option, value]
    return options + arguments
