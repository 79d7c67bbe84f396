"""A programme's audit as JSON lines; ./kessa audit verify FILE checks it without a database."""

import json
from collections.abc import Iterator
from datetime import UTC
from itertools import islice

from kessa.platform.models import AuditEntry, Programme

AT_ONCE = 500
COLUMNS = ("number", "at", "person_id", "act", "about", "data", "before", "hash")


def pieces(programme: Programme) -> Iterator[str]:
    """One entry a line, in order, some hundred lines at a time."""
    entries = AuditEntry.objects.of(programme).oldest_first().values_list(*COLUMNS)
    rows = entries.iterator(chunk_size=AT_ONCE)
    while some := list(islice(rows, AT_ONCE)):
        yield "".join(
            json.dumps(
                {
                    "chain": programme.slug,
                    "number": number,
                    "at": at.astimezone(UTC).isoformat(timespec="microseconds"),
                    "person": person or 0,
                    "act": act,
                    "about": about,
                    "data": data,
                    "before": before,
                    "hash": sealed,
                },
                ensure_ascii=False,
            )
            + "\n"
            for number, at, person, act, about, data, before, sealed in some
        )
