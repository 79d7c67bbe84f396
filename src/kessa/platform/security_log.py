"""What matters to the security of accounts, a line each in the log: who, by number alone."""

import logging

from django.http import HttpRequest

from kessa.platform.models import Person

log = logging.getLogger("kessa.security")


def note(event: str, person: Person | None = None, **more: int | str | None) -> None:
    """One event: what happened, to whom, and whatever else is a number or a fixed word."""
    log.info(event, extra={"person": person.pk if person else None, **more})


def note_request(event: str, request: HttpRequest, **more: int | str | None) -> None:
    """The same of whoever makes this request."""
    person = request.user if request.user.is_authenticated else None
    note(event, person, **more)
