"""A lock that a running procedure has on is a lock of the place."""

from django.db import migrations

LOCKED = ("lock", "unplugged", "sources")
LIVE_AGAIN = ("energize", "closes", "gfci", "run", "back", "on")


def to_the_place(apps, schema_editor):
    """Of each running procedure, the last lock that nothing was energized after."""
    Work, Lock = apps.get_model("planning", "Work"), apps.get_model("jobs", "Lock")
    for work in Work.objects.filter(ended=None):
        on = None
        for tick in work.ticks.order_by("at", "pk"):
            if tick.step in LIVE_AGAIN:
                on = None
            elif tick.step in LOCKED and tick.words and tick.who_id:
                on = tick
        if on is None or Lock.objects.filter(
            job_id=work.job_id, point=work.subject, person_id=on.who_id, off=None
        ).exists():
            continue
        Lock.objects.create(
            job_id=work.job_id, work=work.pk, point=work.subject, zone=[work.subject],
            device=f"what “{work.title}” works on", person_id=on.who_id, name=on.who.username,
            tag=on.words, at=on.at,
        )


class Migration(migrations.Migration):
    """Once."""

    dependencies = [
        ("planning", "0003_a_tick_that_waited"),
        ("jobs", "0009_locks_of_the_place"),
    ]

    operations = [migrations.RunPython(to_the_place, migrations.RunPython.noop)]
