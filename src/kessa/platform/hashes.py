"""What an audit entry carries of rows, so that a row that was changed afterwards shows."""

from collections.abc import Sequence
from datetime import UTC, date, datetime, time
from decimal import Decimal
from typing import Any

from django.db import models

from kessa.platform.registry import registry
from kessa_core.records import sha


def seal_of(rows: Sequence[models.Model]) -> dict[str, Any]:
    """The seal of rows of one model: their numbers, and one hash over all their columns."""
    label = rows[0]._meta.label
    return {"model": label, "ids": [plain(row.pk) for row in rows], "sha": sha_of_rows(rows)}


def seal_of_batch(rows: Sequence[models.Model], batch: str) -> dict[str, Any]:
    """The seal of rows that carry the same *batch*, of which there may be many."""
    label = rows[0]._meta.label
    return {"model": label, "batch": batch, "count": len(rows), "sha": sha_of_rows(rows)}


def sha_of_rows(rows: Sequence[models.Model]) -> str:
    """One hash over rows of one model, in whatever order they come."""
    columns = registry.sealed[rows[0]._meta.label]
    held = [[plain(row.pk), {name: plain(getattr(row, name)) for name in columns}] for row in rows]
    return sha(sorted(held, key=lambda one: str(one[0])))


def plain(value: Any) -> Any:
    """A column's value as JSON holds it."""
    if isinstance(value, datetime):
        return value.astimezone(UTC).isoformat(timespec="microseconds")
    if isinstance(value, date | time | Decimal):
        return str(value)
    return value if isinstance(value, dict | list | int | float | bool | None) else str(value)
