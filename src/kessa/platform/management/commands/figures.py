"""figures: counts and hashes of the records as one JSON object, to compare two databases by."""

import hashlib
import json

from django.apps import apps
from django.core.management import BaseCommand
from django.db import connection

SKIPPED = {"sessions.Session", "people.DeviceSession", "people.AttemptCount"}
HASHED = (
    "runs_event", "visits_visitevent", "results_evaluation", "results_result", "results_review",
    "verdicts_verdict", "platform_auditentry",
)  # fmt: skip


class Command(BaseCommand):
    """Printed for ./kessa backup and restore."""

    help = "Counts and hashes of the records, as JSON."

    def handle(self, *args: object, **options: object) -> None:
        tables = set(connection.introspection.table_names())
        counts = {
            model._meta.label: model._default_manager.count()
            for model in apps.get_models()
            if model._meta.db_table in tables and model._meta.label not in SKIPPED
        }
        hashes = {table: self._hash(table) for table in HASHED if table in tables}
        self.stdout.write(json.dumps({"counts": counts, "hashes": hashes}, sort_keys=True))

    def _hash(self, table: str) -> str:
        """One hash over every row of a table as text, in the order of its key."""
        found = hashlib.sha256()
        with connection.cursor() as cursor:
            cursor.execute("SET extra_float_digits = 3")
            cursor.execute(f'SELECT t::text FROM "{table}" t ORDER BY t.id')  # noqa: S608
            while rows := cursor.fetchmany(2000):
                for (row,) in rows:
                    found.update(row.encode())
        return found.hexdigest()
