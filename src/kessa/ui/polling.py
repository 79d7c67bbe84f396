"""Parts of a page that ask every half minute whether another device changed something."""

import zlib

from django.http import HttpRequest


def code_of(shown: object) -> str:
    """A short code of what a page shows, by its *repr*; another one when that has changed."""
    return f"{zlib.crc32(repr(shown).encode()):08x}"


def is_poll(request: HttpRequest) -> bool:
    """Whether the page asks by itself; nobody is there for that."""
    return request.headers.get("X-Kessa-Poll") == "yes"


def has_seen(request: HttpRequest, code: str) -> bool:
    """Whether the page that asks shows this already."""
    return is_poll(request) and request.GET.get("seen") == code
