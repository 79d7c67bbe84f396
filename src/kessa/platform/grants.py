"""What the application's database role may do, table by table. Another role owns the tables and
migrates them: immutability rests on these grants first, the triggers come after."""

from collections.abc import Iterator

from django.apps import apps
from django.conf import settings
from django.db import connection, models, transaction

from kessa.platform.registry import registry

WORKING_TABLES = ("procrastinate_", "django_session", "otp_static_", "otp_totp_")
"""Tables of libraries whose rows come and go, by how their names begin."""
READ, INSERT, CHANGE, REMOVE = "SELECT", "INSERT", "UPDATE", "DELETE"


@transaction.atomic
def grant_application() -> None:
    """Give the application's role what it needs and take the rest away; run by the owner after
    every migration. Nothing where one role is both."""
    role, quote = settings.APPLICATION_ROLE, connection.ops.quote_name
    if not role:
        return
    with connection.cursor() as cursor:
        cursor.execute("REVOKE CREATE ON SCHEMA public FROM PUBLIC")
        cursor.execute(f"GRANT USAGE ON SCHEMA public TO {quote(role)}")
        cursor.execute(f"REVOKE ALL ON ALL TABLES IN SCHEMA public FROM {quote(role)}")
        cursor.execute(f"GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO {quote(role)}")
        for table, rights in granted():
            cursor.execute(f"GRANT {rights} ON {quote(table)} TO {quote(role)}")


def granted() -> Iterator[tuple[str, str]]:
    """Each table with the rights that the application has on it, as SQL writes them."""
    of_models = {
        model._meta.db_table: model for model in apps.get_models(include_auto_created=True)
    }
    for table in connection.introspection.table_names():
        if table.startswith(WORKING_TABLES):
            yield table, f"{READ}, {INSERT}, {CHANGE}, {REMOVE}"
        elif model := of_models.get(table):
            yield table, _rights(model)
        else:
            yield table, READ


def _rights(model: type[models.Model]) -> str:
    label = model._meta.label
    if model._meta.app_config is None or not model._meta.app_config.name.startswith("kessa."):
        return READ
    if is_insert_only(model):
        return f"{READ}, {INSERT}"
    rights = f"{READ}, {INSERT}, {CHANGE}"
    if columns := registry.changeable.get(label):
        quoted = ", ".join(connection.ops.quote_name(column) for column in columns)
        rights = f"{READ}, {INSERT}, {CHANGE} ({quoted})"
    return f"{rights}, {REMOVE}" if label in registry.removable else rights


def is_insert_only(model: type[models.Model]) -> bool:
    """Whether a row of this model is never changed."""
    triggers = getattr(model._meta, "triggers", ())
    return any(trigger.name == "insert_only" for trigger in triggers)
