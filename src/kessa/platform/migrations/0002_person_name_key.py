"""A key of its own for each person, with which the audit hashes the name."""

from typing import Any

from django.db import migrations, models

import kessa.platform.models


def give_keys(apps: Any, _: Any) -> None:
    for person in apps.get_model("platform", "Person").objects.filter(pseudonymised_at=None):
        person.name_key = kessa.platform.models.new_name_key()
        person.save(update_fields=["name_key"])


class Migration(migrations.Migration):
    dependencies = [("platform", "0001_initial")]

    operations = [
        migrations.AddField(
            model_name="person",
            name="name_key",
            field=models.CharField(default="", editable=False, max_length=32),
        ),
        migrations.RunPython(give_keys, migrations.RunPython.noop),
        migrations.AlterField(
            model_name="person",
            name="name_key",
            field=models.CharField(
                default=kessa.platform.models.new_name_key, editable=False, max_length=32
            ),
        ),
    ]
