"""How many there are, without counting what nobody would read."""

from typing import Any

from django.contrib.postgres.expressions import ArraySubquery
from django.db.models import Func, IntegerField, QuerySet

from kessa.platform.models import Programme

MOST = 1000


def capped_count(rows: QuerySet[Any]) -> str:
    """The number of rows in words: "", "12", "more than 1000"."""
    return in_words(_numbers(rows).count())


def capped_size(rows: QuerySet[Any]) -> Func:
    """The number of rows as a column of another query, for in_words()."""
    return Func(ArraySubquery(_numbers(rows)), function="cardinality", output_field=IntegerField())


def capped_counts(programme: Programme, **kinds: QuerySet[Any]) -> dict[str, str]:
    """The number of rows of each of several kinds in words, in one query."""
    if not kinds:
        return {}
    sizes = [capped_size(rows) for rows in kinds.values()]
    found = Programme.objects.filter(pk=programme.pk).values_list(*sizes).get()
    return {name: in_words(size) for name, size in zip(kinds, found, strict=True)}


def _numbers(rows: QuerySet[Any]) -> QuerySet[Any]:
    return rows.order_by().values("pk")[: MOST + 1]


def in_words(found: int) -> str:
    """A number that was counted up to one more than MOST."""
    if found > MOST:
        return f"more than {MOST}"
    return str(found) if found else ""
