"""What can be wrong with background work."""

from collections.abc import Iterator
from datetime import timedelta

from procrastinate.contrib.django.models import ProcrastinateEvent, ProcrastinateJob

from kessa.platform import clock

LONG = timedelta(minutes=15)


def jobs() -> Iterator[str]:
    """Nothing waits for long, and nothing was given up."""
    asked = ProcrastinateEvent.objects.filter(type="deferred", at__lt=clock.now() - LONG)
    if waiting := asked.filter(job__status="todo").count():
        yield f"{waiting} jobs have waited for over 15 minutes. Start ./kessa serve again."
    if failed := ProcrastinateJob.objects.filter(status="failed").count():
        yield f"{failed} jobs have failed; the log says why. Ask for them again from their page."
