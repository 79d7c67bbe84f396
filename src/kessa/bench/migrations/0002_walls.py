"""The wall between programmes, in the schema."""

from django.db import migrations

from kessa.schema import wall, ward


class Migration(migrations.Migration):
    dependencies = [("bench", "0001_initial"), ("visits", "0002_walls"), ("library", "0002_walls")]
    operations = [
        ward("bench_run"),
        wall("bench_run", "sample_id", "visits_sample"),
        wall("bench_run", "version_id", "library_methodversion"),
        wall("bench_run", "lot_id", "library_lot"),
        wall("bench_run", "continues_id", "bench_run"),
        wall("bench_event", "run_id", "bench_run"),
    ]
