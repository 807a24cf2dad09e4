"""An electrode's clamp reading in ohms is a kind of its own; *clamp* is amperes."""

from django.db import migrations


def rename(apps, schema_editor):
    """Those that were kept in ohms."""
    readings = apps.get_model("log", "LoggedReading").objects
    readings.filter(kind="clamp", unit="Ω").update(kind="clamp-ohm")


class Migration(migrations.Migration):
    """Data only."""

    dependencies = [("log", "0002_evidence")]
    operations = [migrations.RunPython(rename, migrations.RunPython.noop)]
