"""What an audit entry carries of rows, so that a row that was changed afterwards shows."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import UTC, date, datetime, time
from decimal import Decimal
from typing import Any

from django.apps import apps
from django.db import connection, models, transaction

from kessa.platform.registry import registry
from kessa_core.records import sha as sha_of


def seal_of(rows: Sequence[models.Model]) -> dict[str, Any]:
    """The seal of rows of one model: their numbers, and one hash over all their columns."""
    label = rows[0]._meta.label
    ids = [plain(row.pk) for row in rows]
    return {"model": label, "ids": ids, "sha": sha_of_rows(rows), **_version(label)}


def seal_of_batch(rows: Sequence[models.Model], batch: str) -> dict[str, Any]:
    """The seal of rows that carry the same *batch*, of which there may be many."""
    label = rows[0]._meta.label
    sha = sha_of_rows(rows)
    return {"model": label, "batch": batch, "count": len(rows), "sha": sha, **_version(label)}


def seal_of_many(model: type[models.Model], programme: int, batch: str) -> dict[str, Any]:
    """The seal of as many rows as a batch may have, reckoned by the database itself."""
    label = model._meta.label
    count, digest = digest_of(label, programme, batch)
    return {"model": label, "batch": batch, "count": count, "digest": digest, **_version(label)}


def _version(label: str) -> dict[str, int]:
    """The version of the table that a seal made now covers; nothing for the first one."""
    newest = len(registry.sealed[label]) - 1
    return {"version": newest} if newest else {}


def digest_of(label: str, programme: int, batch: str, version: int = -1) -> tuple[int, str]:
    """How many rows of a batch there are, and one hash over the text of all their columns: the
    hashes of a thousand rows at a time, hashed again, so that no text grows too long."""
    table = apps.get_model(label)._meta.db_table
    columns = ", ".join(f't."{column}"' for column in registry.sealed[label][version])
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SET LOCAL TimeZone = 'UTC'")
        cursor.execute(
            "SELECT coalesce(sum(n), 0), coalesce(encode(sha256(string_agg(h, ''::bytea ORDER BY "  # noqa: S608
            "k)), 'hex'), '') FROM (SELECT id / 1000 AS k, count(*) AS n, sha256(string_agg("
            f"sha256(convert_to(ROW({columns})::text, 'UTF8')), ''::bytea ORDER BY id)) AS h "
            f'FROM "{table}" t WHERE programme_id = %s AND batch = %s GROUP BY 1) AS pieces',
            [programme, batch],
        )
        count, digest = cursor.fetchone()
    return int(count), str(digest)


def sha_of_rows(rows: Sequence[models.Model], version: int = -1) -> str:
    """One hash over rows of one model, in whatever order they come. *version*: of the table, as
    registry.sealed counts them; the newest where it is not given."""
    columns = registry.sealed[rows[0]._meta.label][version]
    return sha_of_said([(row.pk, {name: getattr(row, name) for name in columns}) for row in rows])


def sha_of_said(rows: Iterable[tuple[Any, Mapping[str, Any]]]) -> str:
    """The same of rows that were read as their keys and what their columns say."""
    held = [[plain(key), {name: plain(one) for name, one in said.items()}] for key, said in rows]
    return sha_of(sorted(held, key=lambda one: str(one[0])))


AS_THEY_ARE = frozenset((str, int, float, bool, dict, list, type(None)))
"""The types that JSON holds as they are; an audit looks at some million values."""


def plain(value: Any) -> Any:
    """A column's value as JSON holds it."""
    if type(value) in AS_THEY_ARE:
        return value
    if isinstance(value, datetime):
        return value.astimezone(UTC).isoformat(timespec="microseconds")
    if isinstance(value, Decimal):
        return f"{value.normalize():f}"
    if isinstance(value, date | time):
        return str(value)
    return value if isinstance(value, dict | list | int | float) else str(value)
