"""Three breaker lines to begin with; they are made up."""

from dataclasses import asdict
from pathlib import Path

from django.db import migrations

from returnpath.site.breaker_lines import read_lines_csv


def fill(apps, schema_editor):
    """Read the list that ships."""
    model = apps.get_model("firm", "FirmLine")
    text = (Path(__file__).parents[1] / "lines.csv").read_text("utf-8")
    for line in read_lines_csv(text):
        facts = asdict(line)
        model.objects.create(name=facts.pop("name"), facts=facts)


class Migration(migrations.Migration):
    """Only where the list is new."""

    dependencies = [("firm", "0001_initial")]
    operations = [migrations.RunPython(fill, migrations.RunPython.noop)]
