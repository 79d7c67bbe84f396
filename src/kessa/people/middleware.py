"""Remembers when each signed-in device was last here."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

from kessa.people.devices import note_seen


class LastSeenMiddleware:
    """A write every few minutes for each device, so that the list of devices means something."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if request.path != "/append/" and request.user.is_authenticated:
            note_seen(request)
        return self.get_response(request)
