"""A test that was begun by mistake is cancelled."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("visits", "0005_depth")]

    operations = [
        migrations.AlterField(
            model_name="sample",
            name="outcome",
            field=models.CharField(
                choices=[
                    ("open", "on the way"),
                    ("taken", "sampled"),
                    ("not-taken", "not sampled"),
                    ("cancelled", "cancelled"),
                ],
                default="open",
                max_length=10,
            ),
        ),
    ]
