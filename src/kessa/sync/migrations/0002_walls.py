"""The wall between programmes, in the schema."""

from django.db import migrations

from kessa.schema import wall


class Migration(migrations.Migration):
    dependencies = [("sync", "0001_initial"), ("visits", "0004_walls")]
    operations = [
        wall("sync_capability", "visit_id", "visits_visit"),
    ]
