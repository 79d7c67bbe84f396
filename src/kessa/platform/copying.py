"""Writing many rows at once, by COPY."""

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator
from typing import Any, TypeVar

from django.db import connection, models

AT_ONCE = 500
"""Numbers that are taken from a sequence at a time."""
Row = TypeVar("Row", bound=models.Model)


class RowWriter:
    """Rows of several models, each numbered when it is added, and written together. Constraints and
    triggers of the database hold for them as for any others."""

    def __init__(self) -> None:
        self._rows: dict[type[models.Model], list[models.Model]] = defaultdict(list)
        self._numbers: dict[type[models.Model], Iterator[int]] = {}

    def add(self, row: Row) -> Row:
        """The row, with a number of its own where its model counts them."""
        model = type(row)
        if row.pk is None:
            numbers = self._numbers.setdefault(model, _numbers(model))
            row.pk = next(numbers)
        self._rows[model].append(row)
        return row

    def add_all(self, rows: Iterable[Row]) -> list[Row]:
        """add() for each of them."""
        return [self.add(row) for row in rows]

    def write(self) -> None:
        """Everything that was added since, model by model in the order they first came."""
        for model, rows in self._rows.items():
            _copy(model, rows)
        self._rows.clear()


def _numbers(model: type[models.Model]) -> Iterator[int]:
    """Fresh numbers of a model, from the sequence of its table."""
    table, column = model._meta.db_table, model._meta.pk.column
    while True:
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT nextval(pg_get_serial_sequence(%s, %s)) FROM generate_series(1, %s)",
                [table, column, AT_ONCE],
            )
            found = [number for (number,) in cursor.fetchall()]
        yield from found


def _copy(model: type[models.Model], rows: list[models.Model]) -> None:
    fields = model._meta.concrete_fields
    columns = ", ".join(f'"{field.column}"' for field in fields)
    statement = f'COPY "{model._meta.db_table}" ({columns}) FROM STDIN'
    told = [(field.attname, _prepare(field)) for field in fields]
    with connection.cursor() as cursor, cursor.copy(statement) as copy:
        for row in rows:
            values = [(getattr(row, name), prepare) for name, prepare in told]
            copy.write_row([prepare(value) if prepare else value for value, prepare in values])


AS_IT_IS = (
    models.CharField, models.TextField, models.IntegerField, models.FloatField,
    models.BooleanField, models.DateTimeField, models.DateField, models.UUIDField,
    models.ForeignKey,
)  # fmt: skip
"""Fields whose values the driver writes as they are; the length of a text the database checks."""


def _prepare(field: "models.Field[Any, Any]") -> Callable[[Any], Any] | None:
    """What makes a value of *field* ready for the driver; None where nothing has to be done."""
    if isinstance(field, AS_IT_IS):
        return None
    return lambda value: field.get_db_prep_save(value, connection)
