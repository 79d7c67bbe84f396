"""The wall between programmes, in the schema."""

from django.db import migrations

from kessa.schema import ward


class Migration(migrations.Migration):
    dependencies = [("library", "0001_initial")]
    operations = [
        ward("library_methodversion"),
        ward("library_lot"),
    ]
