"""A run has a lot for each reagent."""

import django.db.models.deletion
from django.db import migrations, models

from kessa.schema import wall

CARRY = """
INSERT INTO bench_runlot (programme_id, run_id, lot_id)
SELECT programme_id, id, lot_id FROM bench_run WHERE lot_id IS NOT NULL
"""


class Migration(migrations.Migration):
    dependencies = [
        ("accounts", "0003_how_we_work"),
        ("bench", "0003_arrival"),
        ("library", "0005_drop_size"),
    ]

    operations = [
        migrations.CreateModel(
            name="RunLot",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                (
                    "lot",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to="library.lot",
                    ),
                ),
                (
                    "programme",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, to="accounts.programme"
                    ),
                ),
                (
                    "run",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="lots_used",
                        to="bench.run",
                    ),
                ),
            ],
            options={
                "ordering": ["pk"],
                "constraints": [
                    models.UniqueConstraint(fields=("run", "lot"), name="each_lot_once_a_run")
                ],
            },
        ),
        wall("bench_runlot", "run_id", "bench_run"),
        wall("bench_runlot", "lot_id", "library_lot"),
        migrations.RunSQL(CARRY, migrations.RunSQL.noop),
        migrations.RemoveField(model_name="run", name="lot"),
    ]
