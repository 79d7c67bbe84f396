"""A programme's audit as JSON lines; ./kessa audit verify FILE checks it without a database."""

from collections.abc import Iterator
from itertools import islice

from django.db import connections

from kessa.platform.models import Programme
from kessa.platform.replica import reading_from

AT_ONCE = 500
SQL = """
COPY (
    SELECT json_build_object(
        'chain', %s::text,
        'number', number,
        'at', to_char(at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"+00:00"'),
        'person', coalesce(person_id, 0),
        'act', act,
        'about', about,
        'data', data,
        'before', before,
        'hash', hash
    )
    FROM platform_auditentry
    WHERE programme_id = %s
    ORDER BY number
) TO STDOUT
"""


def pieces(programme: Programme) -> Iterator[bytes]:
    """One entry a line, in order, some hundred lines at a time."""
    asked = [programme.slug, programme.pk]
    with connections[reading_from()].cursor() as cursor, cursor.copy(SQL, asked) as copy:
        lines = iter(copy)
        while some := list(islice(lines, AT_ONCE)):
            yield b"".join(some).replace(rb"\\", b"\\")  # the only thing in JSON that COPY escapes
