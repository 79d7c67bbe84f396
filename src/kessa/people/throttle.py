"""How often something may be tried: one counter in the database, shared by every worker."""

from datetime import timedelta

from django.conf import settings
from django.db import connection, transaction
from django.http import HttpRequest

from kessa.people.models import AttemptCount
from kessa.platform import clock

WINDOW = 15 * 60
"""Seconds in which tries to sign in are counted together."""


class TooOften(Exception):
    """Tried too often; *seconds* until the next try counts."""

    def __init__(self, seconds: int) -> None:
        super().__init__(f"Too many attempts. Try again in {words(seconds)}.")
        self.seconds = seconds


def words(seconds: int) -> str:
    """A wait as people say it."""
    if seconds < 90:
        return f"{seconds} seconds"
    return f"{round(seconds / 60)} minutes"


@transaction.atomic
def count(key: str, most: int, seconds: int) -> None:
    """Count one try of *key*; raises TooOften above *most* in *seconds*.

    A count need not survive a crash, so nobody waits for the disk.
    """
    with connection.cursor() as cursor:
        cursor.execute("SET LOCAL synchronous_commit TO off")
    tally = _held(key, seconds)
    tally.count += 1
    tally.save(update_fields=["count", "until"])
    if tally.count > most:
        raise TooOften(_left(tally))


def refuse_when_full(key: str, most: int) -> None:
    """Raise TooOften when *key* has already been counted *most* times in its window."""
    tally = AttemptCount.objects.filter(pk=key[:120], until__gt=clock.now()).first()
    if tally and tally.count >= most:
        raise TooOften(_left(tally))


def forget(key: str) -> None:
    """Start from zero after a success."""
    AttemptCount.objects.filter(pk=key[:120]).delete()


def _held(key: str, seconds: int) -> AttemptCount:
    now = clock.now()
    until = now + timedelta(seconds=seconds)
    tally, fresh = AttemptCount.objects.select_for_update().get_or_create(
        pk=key[:120], defaults={"until": until}
    )
    if fresh:
        AttemptCount.objects.filter(until__lt=now - timedelta(days=1)).delete()
    elif tally.until <= now:
        tally.count, tally.until = 0, until
    return tally


def _left(tally: AttemptCount) -> int:
    return max(1, round((tally.until - clock.now()).total_seconds()))


def address(request: HttpRequest) -> str:
    """Where a request comes from; behind a proxy, what the proxy itself appended."""
    forwarded = request.headers.get("X-Forwarded-For", "")
    if settings.BEHIND_PROXY and forwarded:
        return forwarded.rsplit(",", 1)[-1].strip()[:45]
    return str(request.META.get("REMOTE_ADDR", ""))
