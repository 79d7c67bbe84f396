"""Whether the application is well."""

from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor
from django.http import HttpRequest, JsonResponse

from kessa.platform.permissions import public
from kessa.platform.release import release
from kessa.platform.trouble import cannot_write, remembered


@public
def health(_request: HttpRequest) -> JsonResponse:
    """Whether the database answers and fits this release: 200, or 503 and what is wrong."""
    try:
        executor = MigrationExecutor(connection)
        pending = executor.migration_plan(executor.loader.graph.leaf_nodes())
    except DatabaseError:
        return JsonResponse({"ok": False, "wrong": "the database does not answer"}, status=503)
    if pending:
        return JsonResponse({"ok": False, "wrong": "migrations are pending"}, status=503)
    if wrong := cannot_write() or remembered():
        return JsonResponse({"ok": False, "wrong": wrong}, status=503)
    return JsonResponse({"ok": True, "release": release()})
