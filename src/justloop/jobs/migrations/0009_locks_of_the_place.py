"""Locks belong to the place; several breakers may be off at once, each said."""

import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


def keep_what_is_off(apps, schema_editor):
    """What is off now is off after the change too."""
    new = apps.get_model("jobs", "OffNow")
    for old in apps.get_model("jobs", "OneOff").objects.all():
        new.objects.create(job_id=old.job_id, circuit=old.circuit, by_id=old.by_id, at=old.at)


class Migration(migrations.Migration):
    """The table of locks; ``OffNow`` made anew, because its key was the job."""

    dependencies = [
        ("jobs", "0008_off_now"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Lock",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("work", models.PositiveIntegerField(blank=True, null=True)),
                ("client_id", models.UUIDField(blank=True, db_index=True, null=True)),
                ("point", models.CharField(max_length=20)),
                ("device", models.CharField(max_length=200)),
                ("name", models.CharField(max_length=150)),
                ("tag", models.CharField(max_length=160)),
                ("zone", models.JSONField(default=list)),
                ("at", models.DateTimeField(default=django.utils.timezone.now)),
                ("waited", models.BooleanField(default=False)),
                ("proved", models.DateTimeField(blank=True, null=True)),
                ("ended", models.CharField(blank=True, max_length=300)),
                ("ended_at", models.DateTimeField(blank=True, null=True)),
                ("off", models.DateTimeField(blank=True, null=True)),
                ("off_by", models.CharField(blank=True, max_length=150)),
                ("off_called", models.CharField(blank=True, max_length=200)),
                ("off_gone", models.CharField(blank=True, max_length=200)),
                ("off_told", models.CharField(blank=True, max_length=200)),
                ("off_checked", models.CharField(blank=True, max_length=200)),
                ("job", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="locks", to="jobs.job")),
                ("person", models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="locks", to=settings.AUTH_USER_MODEL)),
            ],
            options={"ordering": ["at", "pk"]},
        ),
        migrations.AddConstraint(
            model_name="lock",
            constraint=models.UniqueConstraint(condition=models.Q(("off", None)), fields=("job", "point", "person"), name="one_lock_of_a_person_on_a_point"),
        ),
        migrations.RenameModel("OffNow", "OneOff"),
        migrations.AlterField(
            model_name="oneoff",
            name="job",
            field=models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, primary_key=True, related_name="+", serialize=False, to="jobs.job"),
        ),
        migrations.CreateModel(
            name="OffNow",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("circuit", models.CharField(max_length=12)),
                ("at", models.DateTimeField(default=django.utils.timezone.now)),
                ("until", models.DateTimeField(blank=True, null=True)),
                ("by", models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to=settings.AUTH_USER_MODEL)),
                ("job", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="off", to="jobs.job")),
            ],
            options={"ordering": ["at", "pk"]},
        ),
        migrations.AddConstraint(
            model_name="offnow",
            constraint=models.UniqueConstraint(condition=models.Q(("until", None)), fields=("job", "circuit"), name="off_once"),
        ),
        migrations.RunPython(keep_what_is_off, migrations.RunPython.noop),
        migrations.DeleteModel("OneOff"),
    ]
