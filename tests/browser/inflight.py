"""Counts requests under way, so that a test ends only when the live server is idle.

A page that is closed may leave a request behind; emptying the tables meanwhile would deadlock.
"""

import threading
import time
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

_lock = threading.Lock()
_under_way = 0


class InFlight:
    """The first middleware: nothing of the application runs outside it."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        global _under_way
        with _lock:
            _under_way += 1
        try:
            return self.get_response(request)
        finally:
            with _lock:
                _under_way -= 1


def wait_until_idle() -> None:
    """Return once nothing has been under way for a tenth of a second."""
    quiet_since = time.monotonic()
    until = quiet_since + 15
    while time.monotonic() - quiet_since < 0.1:
        if _under_way:
            quiet_since = time.monotonic()
        if time.monotonic() > until:
            raise RuntimeError("the live server is still busy")
        time.sleep(0.01)
