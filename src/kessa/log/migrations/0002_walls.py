"""The wall between programmes, in the schema."""

from django.db import migrations

from kessa.schema import wall, ward


class Migration(migrations.Migration):
    dependencies = [("log", "0001_initial"), ("bench", "0002_walls")]
    operations = [
        ward("log_result"),
        ward("log_evaluation"),
        wall("log_result", "run_id", "bench_run"),
        wall("log_result", "point_id", "waters_point"),
        wall("log_result", "current_id", "log_evaluation"),
        wall("log_evaluation", "result_id", "log_result"),
    ]
