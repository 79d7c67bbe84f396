"""The wall between programmes, in the schema."""

from django.db import migrations

from kessa.schema import wall


class Migration(migrations.Migration):
    dependencies = [("visits", "0003_correction")]
    operations = [
        wall("visits_samplecorrection", "sample_id", "visits_sample"),
    ]
