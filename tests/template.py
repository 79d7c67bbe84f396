"""One migrated database, from which every suite copies its own: migrations run once for each state
of their files."""

import hashlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from django.db import connections

SOURCE = Path(__file__).parents[1] / "src" / "kessa"
PREFIX = "kessa_template_"
LOCK = 727_001


def name_of_template() -> str:
    """It ends with what the migrations are."""
    digest = hashlib.sha256()
    for path in sorted(SOURCE.glob("**/migrations/*.py")):
        digest.update(str(path.relative_to(SOURCE)).encode() + path.read_bytes())
    return PREFIX + digest.hexdigest()[:16]


@contextmanager
def copied_from_template() -> Iterator[None]:
    """What is set up inside is copied where it can be, else becomes the template. One suite at a
    time."""
    connection = connections["default"]
    name = name_of_template()
    with connection._nodb_cursor() as cursor:
        cursor.execute("SELECT pg_advisory_lock(%s)", [LOCK])
        ready = _exists(cursor, name)
        if ready:
            connection.settings_dict["TEST"]["TEMPLATE"] = name
        yield
        if not ready:
            made = connection.settings_dict["NAME"]
            connections.close_all()
            _drop_older(cursor)
            cursor.execute(f'CREATE DATABASE "{name}" TEMPLATE "{made}"')
        cursor.execute("SELECT pg_advisory_unlock(%s)", [LOCK])


def _exists(cursor: Any, name: str) -> bool:
    cursor.execute("SELECT 1 FROM pg_database WHERE datname = %s", [name])
    return cursor.fetchone() is not None


def _drop_older(cursor: Any) -> None:
    cursor.execute("SELECT datname FROM pg_database WHERE datname LIKE %s", [f"{PREFIX}%"])
    for (name,) in cursor.fetchall():
        cursor.execute(f'DROP DATABASE "{name}"')
