"""The wall between programmes, in the schema."""

from django.db import migrations

from kessa.schema import wall


class Migration(migrations.Migration):
    dependencies = [("log", "0003_review"), ("log", "0002_walls")]
    operations = [
        wall("log_review", "result_id", "log_result"),
        wall("log_review", "evaluation_id", "log_evaluation"),
    ]
