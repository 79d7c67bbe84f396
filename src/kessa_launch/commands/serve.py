"""./kessa serve: the production way, nginx before gunicorn. Settings come from the environment
(docs/SERVE.md)."""

import os
import subprocess

from kessa_launch import environment, older
from kessa_launch.children import WORKER, StopRequested, kept_running, running, stop_politely
from kessa_launch.database import Database, as_owner
from kessa_launch.errors import LauncherError
from kessa_launch.locks import FileLock, hold
from kessa_launch.proxy import Proxy, proxying
from kessa_launch.state_paths import StatePaths, places

NEEDED = ("KESSA_SECRET_KEY", "KESSA_HOSTS", "KESSA_DB_HOST", "KESSA_DB_NAME", "KESSA_DB_USER",
          "KESSA_DB_APP_USER")  # fmt: skip


def run(arguments: list[str]) -> int:
    """Check the settings, migrate, collect styles and scripts, run gunicorn behind nginx."""
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
                    "KESSA_BEHIND_PROXY": "1",
                }
            )
            older.refuse(Database(python, environ), "This database")
            manage = [str(python), "-m", "kessa"]
            checked = [*manage, "check", "--deploy", "--fail-level", "WARNING"]
            for step in (checked, [*manage, "prepare"]):
                if subprocess.run(step, env=as_owner(environ)).returncode:
                    raise LauncherError("Not started; the lines above say what to mend.")
            proxy = _proxy(where)
            server = [str(python), "-m", "gunicorn", "kessa.wsgi", *_options(proxy, arguments)]
            worker = kept_running([*manage, *WORKER], environ)
            with worker, running(server, environ) as child, proxying(proxy, environ):
                return child.wait()
    except FileLock:
        raise LauncherError("This clone is already being served.") from None
    except StopRequested:
        return 0


def _proxy(where: StatePaths) -> Proxy:
    """nginx as the environment wants it. Raises LauncherError where nothing would end TLS."""
    certificate, key = (os.environ.get(f"KESSA_TLS_{name}", "") for name in ("CERT", "KEY"))
    if not certificate and not os.environ.get("KESSA_BEHIND_PROXY"):
        raise LauncherError(
            "Set KESSA_TLS_CERT and KESSA_TLS_KEY, or KESSA_BEHIND_PROXY when another proxy in "
            "front ends TLS; docs/SERVE.md explains both."
        )
    bind = os.environ.get("KESSA_BIND", "127.0.0.1:8000")
    return Proxy(where.home / "nginx", bind, certificate, key)


def _options(proxy: Proxy, arguments: list[str]) -> list[str]:
    options = ["--bind", f"unix:{proxy.socket}", "--umask", "0o177", "--workers", "3"]
    options += ["--threads", "4", "--worker-tmp-dir", "/dev/shm", "--log-level", "warning"]
    return options + arguments
