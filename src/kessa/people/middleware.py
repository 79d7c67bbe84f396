"""Remembers when each signed-in device was last here, and ends a sign-in that has lasted."""

from collections.abc import Callable

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import logout
from django.http import HttpRequest, HttpResponse

from kessa.people.devices import note_seen
from kessa.people.models import DeviceSession
from kessa.platform import clock
from kessa.platform.security_log import note_request
from kessa.ui.polling import is_poll

ENDED = "You were signed out after {why}. Anything saved on this device is still there."


class LastSeenMiddleware:
    """A write every few minutes for each device, so that the list of devices means something."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if request.path != "/append/" and request.user.is_authenticated:
            if why := _has_lasted(request):
                _end(request, why)
            elif not is_poll(request):
                note_seen(request)
        return self.get_response(request)


def _has_lasted(request: HttpRequest) -> str:
    """Why this sign-in ends now, in words; else nothing."""
    now = clock.now().timestamp()
    begun, seen = request.session.get("begun", now), request.session.get("seen", now)
    if now - begun > settings.LONGEST_SIGN_IN:
        return f"{settings.LONGEST_SIGN_IN // 3600} hours"
    if now - seen > settings.LONGEST_IDLE:
        return f"{settings.LONGEST_IDLE // 3600} hours without use"
    return ""


def _end(request: HttpRequest, why: str) -> None:
    note_request("sign-in ended", request)
    DeviceSession.objects.filter(session_key=request.session.session_key).delete()
    logout(request)
    messages.info(request, ENDED.format(why=why))
