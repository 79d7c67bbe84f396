"""The wall between programmes, in the schema."""

from django.db import migrations

from kessa.schema import wall, ward


class Migration(migrations.Migration):
    dependencies = [("visits", "0001_initial"), ("waters", "0002_walls")]
    operations = [
        ward("visits_visit"),
        ward("visits_sample"),
        wall("visits_sample", "visit_id", "visits_visit"),
        wall("visits_sample", "point_id", "waters_point"),
    ]
