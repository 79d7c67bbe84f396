"""Where a person is signed in: each device is listed and can be signed out."""

from datetime import timedelta
from importlib import import_module
from typing import Any, cast

from django.conf import settings
from django.http import HttpRequest

from kessa.people.agents import device_of
from kessa.people.models import DeviceSession
from kessa.platform import clock
from kessa.platform.models import Person

SEEN_EVERY = timedelta(minutes=5)


def note_sign_in(request: HttpRequest, person: Person) -> None:
    """A device has signed in; the session has its key by now."""
    now = clock.now().timestamp()
    request.session.setdefault("begun", now)
    request.session["seen"] = now
    if not request.session.session_key:
        request.session.save()
    DeviceSession.objects.update_or_create(
        session_key=request.session.session_key,
        defaults={"person": person, "device": device_of(request), "seen_at": clock.now()},
    )


def note_seen(request: HttpRequest) -> None:
    """Remember when the device was last here, every few minutes."""
    now = clock.now()
    last = request.session.get("seen", 0)
    if now.timestamp() - last > SEEN_EVERY.total_seconds():
        note_sign_in(request, cast(Person, request.user))


def end(sign_in: DeviceSession) -> None:
    """Sign a device out."""
    _sessions().SessionStore(sign_in.session_key).delete()
    sign_in.delete()


def end_all(person: Person, but: str | None = None) -> None:
    """Sign every device of a person out, but the one of session *but*."""
    for sign_in in DeviceSession.objects.for_person(person).exclude(session_key=but or ""):
        end(sign_in)


def _sessions() -> Any:
    return import_module(settings.SESSION_ENGINE)
