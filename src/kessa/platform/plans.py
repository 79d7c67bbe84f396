"""How the database plans a query that it is sent again and again."""

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection, transaction


@contextmanager
def planned_for_its_values() -> Iterator[None]:
    """Queries in the block are planned for the values they carry, each time: for those where one
    value finds three rows and another a hundred thousand. Elsewhere a plan is kept and used for
    any value (settings.DATABASES)."""
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("SET LOCAL plan_cache_mode = force_custom_plan")
        yield
