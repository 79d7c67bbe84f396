"""The time that services write down: now, or a moment in the past while a history is made."""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import datetime

from django.utils import timezone

_moment: ContextVar[datetime | None] = ContextVar("kessa_moment", default=None)


def now() -> datetime:
    """The time in UTC."""
    return _moment.get() or timezone.now()


@contextmanager
def at(moment: datetime) -> Iterator[None]:
    """Within this block it is *moment*."""
    token = _moment.set(moment)
    try:
        yield
    finally:
        _moment.reset(token)
