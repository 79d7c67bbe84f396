"""A programme's audit as JSON lines; ./kessa audit verify FILE checks it without a database."""

import json
from collections.abc import Iterator
from dataclasses import asdict

from kessa.platform.models import AuditEntry, Programme


def lines(programme: Programme) -> Iterator[str]:
    """One entry a line, in order."""
    for entry in AuditEntry.objects.of(programme).in_order().iterator(chunk_size=2000):
        yield json.dumps(asdict(entry.as_core(programme.slug)), ensure_ascii=False) + "\n"
