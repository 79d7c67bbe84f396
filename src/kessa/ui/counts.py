"""How many there are, without counting what nobody would read."""

from typing import Any

from django.db.models import QuerySet

MOST = 1000


def capped_count(rows: QuerySet[Any], most: int = MOST) -> str:
    """The number of rows in words: "", "12", "more than 1000"."""
    found = rows.order_by().values("pk")[: most + 1].count()
    if found > most:
        return f"more than {most}"
    return str(found) if found else ""
