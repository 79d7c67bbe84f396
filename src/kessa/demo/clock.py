"""Making a history that happened when it says: every row carries the time of its story."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from unittest.mock import patch

from django.utils import timezone


@contextmanager
def at(moment: datetime) -> Iterator[None]:
    """Within this block it is *moment*, for services and for the columns that note the time."""
    with patch.object(timezone, "now", lambda: moment):
        yield
