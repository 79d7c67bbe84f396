"""The wall between programmes, in the schema."""

from django.db import migrations

from kessa.schema import wall, ward


class Migration(migrations.Migration):
    dependencies = [("waters", "0001_initial")]
    operations = [
        ward("waters_water"),
        ward("waters_point"),
        wall("waters_point", "water_id", "waters_water"),
        wall("waters_point", "pair_id", "waters_point"),
    ]
