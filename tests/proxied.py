"""gunicorn behind Debian's nginx by our own configuration, on the test database, with TLS."""

import os
import shutil
import ssl
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings
from django.db import connection

from kessa_launch import debian, ports
from kessa_launch.children import running
from kessa_launch.proxy import Proxy, proxying


@dataclass(frozen=True)
class Proxied:
    """Where it answers, and what trusts its certificate."""

    port: int
    tls: ssl.SSLContext

    @property
    def address(self) -> str:
        return f"https://127.0.0.1:{self.port}"


def serve_behind_nginx(stack: ExitStack, **more: str) -> Proxied:
    """Runs until *stack* is closed; *more* goes into the environment of the server."""
    if not shutil.which("nginx", path=f"{os.environ['PATH']}:/usr/sbin"):
        debian.install("nginx-light", why="The tests of ./kessa serve need nginx")
    folder = Path(stack.enter_context(tempfile.TemporaryDirectory(prefix="k-")))
    key, certificate = folder / "key.pem", folder / "cert.pem"
    subprocess.run(
        ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2",
         "-subj", "/CN=localhost", "-addext", "subjectAltName=IP:127.0.0.1",
         "-keyout", str(key), "-out", str(certificate)],
        check=True, capture_output=True,
    )  # fmt: skip
    made = Proxied(ports.free(8700), ssl.create_default_context(cafile=str(certificate)))
    proxy = Proxy(folder / "nginx", f"127.0.0.1:{made.port}", str(certificate), str(key))
    environ = os.environ | {
        "DJANGO_SETTINGS_MODULE": "kessa.settings",
        "KESSA_DB_NAME": connection.settings_dict["NAME"],
        "KESSA_DB_AS": "",
        "KESSA_HOSTS": "127.0.0.1",
        "KESSA_SECRET_KEY": settings.SECRET_KEY,
        "KESSA_MEDIA_ROOT": str(folder),
        "KESSA_STATIC_ROOT": str(settings.STATIC_ROOT),
        "KESSA_BEHIND_PROXY": "1",
        "KESSA_DEBUG": "",
        "KESSA_DEMO": "",
        **more,
    }
    stack.enter_context(proxying(proxy, environ))
    server = [sys.executable, "-m", "gunicorn", "kessa.wsgi", "--workers", "2", "--threads", "2"]
    server += ["--bind", f"unix:{proxy.socket}", "--log-level", "critical"]
    stack.enter_context(running(server, environ))
    _wait(made)
    return made


def _wait(made: Proxied) -> None:
    for _ in range(200):
        try:
            with urllib.request.urlopen(f"{made.address}/health/", timeout=5, context=made.tls):
                return
        except (urllib.error.URLError, OSError):
            time.sleep(0.05)
    raise RuntimeError("the server did not start")
