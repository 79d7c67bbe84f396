"""Lets a test end only when the live server is idle, and stays so until the next one begins.

A page that is closed may leave a request behind; emptying the tables meanwhile would deadlock.
"""

import threading
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

_changed = threading.Condition()
_under_way = 0
_open = True


class InFlight:
    """The first middleware: nothing of the application runs outside it."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        global _under_way
        with _changed:
            if not _open:
                return HttpResponse(status=503)
            _under_way += 1
        try:
            return self.get_response(request)
        finally:
            with _changed:
                _under_way -= 1
                _changed.notify_all()


def open_up() -> None:
    """A test begins: requests are answered."""
    global _open
    with _changed:
        _open = True


def close_down() -> None:
    """The test is over: what still comes is turned away, what is under way ends first."""
    global _open
    with _changed:
        _open = False
        if not _changed.wait_for(lambda: not _under_way, timeout=15):
            raise RuntimeError("the live server is still busy")
