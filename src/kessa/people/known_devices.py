"""Browsers that a person has signed in with before: guessing elsewhere does not lock them out."""

import secrets
import unicodedata
from datetime import timedelta

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from kessa.people import throttle
from kessa.platform.models import Person

COOKIE, SALT = "kessa-known", "kessa.known-device"
LASTS = timedelta(days=180)
TRIES, TRIES_ANYWHERE, TRIES_FROM_AN_ADDRESS = 10, 100, 60
"""Within throttle's window: by account and address or known browser, by account, by address."""


def account_key(name: str) -> str:
    """A name as it is looked up: one key however it is typed."""
    return unicodedata.normalize("NFKC", name).casefold().strip().replace("\x00", "")[:60]


def sign_in_limits(request: HttpRequest, name: str) -> list[tuple[str, int]]:
    """What is counted when somebody signs in with this name, and how often each may be tried. The
    first is forgotten after a success. A known browser has a count of its own, so that nobody
    locks its person out from elsewhere."""
    account, place = account_key(name), throttle.address(request)
    from_here = (f"sign-in-from:{place}", TRIES_FROM_AN_ADDRESS)
    if known := _known(request, account):
        return [(f"sign-in-known:{known}", TRIES), from_here]
    return [
        (f"sign-in:{account}:{place}", TRIES),
        (f"sign-in-anywhere:{account}", TRIES_ANYWHERE),
        from_here,
    ]


def remember(response: HttpResponse, person: Person) -> None:
    """This browser is known to be the person's from now on."""
    response.set_signed_cookie(
        COOKIE,
        f"{account_key(person.username)}|{secrets.token_hex(8)}",
        salt=SALT,
        max_age=LASTS,
        secure=settings.SESSION_COOKIE_SECURE,
        httponly=True,
        samesite="Lax",
    )


def _known(request: HttpRequest, account: str) -> str:
    """The number of this browser, if somebody signed in here with this account; else empty."""
    value = request.get_signed_cookie(COOKIE, default="", salt=SALT, max_age=LASTS)
    whose, _, number = (value or "").rpartition("|")
    return number if whose == account else ""
