"""An evaluation names every lot, and keeps the words of a range of degrees."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("log", "0005_stages"), ("bench", "0004_lots")]

    operations = [
        migrations.AddField(
            model_name="evaluation", name="lots", field=models.JSONField(default=list)
        ),
        migrations.AddField(
            model_name="evaluation",
            name="said_range",
            field=models.CharField(blank=True, max_length=180),
        ),
    ]
