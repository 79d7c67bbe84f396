"""A bottle's own drop, where it was measured."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("library", "0004_own_choices")]

    operations = [
        migrations.AddField(
            model_name="lot", name="drop_ml", field=models.FloatField(blank=True, null=True)
        ),
        migrations.AddField(
            model_name="lot", name="drop_sd", field=models.FloatField(blank=True, null=True)
        ),
    ]
