"""A real server on the test database that can be killed and started again."""

import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request

from django.conf import settings
from django.db import connection


class Server:
    """gunicorn with the production settings of a demo, on one port for its whole life."""

    def __init__(self, port: int) -> None:
        self.port = port
        self.address = f"http://127.0.0.1:{port}"
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        environ = os.environ | {
            "DJANGO_SETTINGS_MODULE": "kessa.settings",
            "KESSA_DB_NAME": connection.settings_dict["NAME"],
            "KESSA_STATIC_ROOT": str(settings.STATIC_ROOT),
            "KESSA_DEMO": "1",
            "KESSA_DEBUG": "",
            "KESSA_DB_AS": "",
        }
        command = [
            sys.executable,
            "-m",
            "gunicorn",
            "kessa.wsgi",
            "--bind",
            f"127.0.0.1:{self.port}",
        ]
        self.process = subprocess.Popen(
            [*command, "--threads", "4", "--log-level", "critical"],
            env=environ,
            start_new_session=True,
        )
        for _ in range(200):
            try:
                with urllib.request.urlopen(self.address + "/sign-in/", timeout=2):
                    return
            except (urllib.error.URLError, OSError):
                time.sleep(0.05)
        raise RuntimeError("the server did not start")

    def stop(self) -> None:
        """In order: what is under way is answered first."""
        if self.process:
            self.process.terminate()
            self.process.wait(timeout=20)
            self.process = None

    def kill(self) -> None:
        """As if the plug were pulled."""
        if self.process:
            os.killpg(self.process.pid, signal.SIGKILL)
            self.process.wait()
            self.process = None
