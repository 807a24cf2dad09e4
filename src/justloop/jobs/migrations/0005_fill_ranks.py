"""How grave each job is, from its newest revision's summary."""

from django.db import migrations

LEVELS = ("danger", "fix", "check", "note")


def fill(apps, schema_editor):
    """Copy level and time up to the job."""
    job_model, revision = apps.get_model("jobs", "Job"), apps.get_model("jobs", "Revision")
    for job in job_model.objects.iterator():
        newest = revision.objects.filter(job=job).order_by("-number").only("summary", "at").first()
        if newest is None:
            continue
        level = (newest.summary or {}).get("level", "")
        job.rank = LEVELS.index(level) if level in LEVELS else 4
        job.changed = newest.at
        job.save(update_fields=["rank", "changed"])


class Migration(migrations.Migration):
    """After the columns are there."""

    dependencies = [("jobs", "0004_worst_first")]
    operations = [migrations.RunPython(fill, migrations.RunPython.noop)]
