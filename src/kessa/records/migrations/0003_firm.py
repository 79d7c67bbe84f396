"""Rows that are inserted and never changed: the database refuses to update or delete them."""

from django.db import migrations

FIRM = (
    "records_entry", "bench_event", "log_evaluation", "log_review", "visits_samplecorrection",
)  # fmt: skip

FUNCTION = """
CREATE FUNCTION kessa_firm() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'rows of % are never changed or deleted', TG_TABLE_NAME;
END $$
"""


def trigger(table: str) -> migrations.RunSQL:
    """Refuse UPDATE and DELETE on *table*."""
    return migrations.RunSQL(
        f"CREATE TRIGGER {table}_firm BEFORE UPDATE OR DELETE ON {table} "
        "FOR EACH ROW EXECUTE FUNCTION kessa_firm()",
        f"DROP TRIGGER {table}_firm ON {table}",
    )


class Migration(migrations.Migration):
    dependencies = [("records", "0002_adopt")]
    operations = [
        migrations.RunSQL(FUNCTION, "DROP FUNCTION kessa_firm()"),
        *(trigger(table) for table in FIRM),
    ]
