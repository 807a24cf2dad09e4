"""Loads the demo's account and jobs, once."""

from importlib.resources import files

from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import transaction

from justloop.accounts.views import DEMO_NAME, DEMO_PASSWORD
from justloop.jobs import revisions
from justloop.jobs.models import Job
from returnpath.site import loads

#: Job files in examples/: name, where. Newest first on the list: the last one.
JOBS = {
    "thistle": ("Thistle End Farm", "Thistle End, over the ford"),
    "foxglove": ("Foxglove Row 14", "Foxglove Row, Nether Sallow"),
    "larkfield": ("Larkfield Barn", "Larkfield, south yard"),
    "millrace": ("Millrace Terrace 9", "Millrace, upper end"),
    "pebblewick": ("Pebblewick Cottage", "Mill Lane, Otterby Water"),
}


class Command(BaseCommand):
    """``manage.py demo``: does nothing where the demo's account is there already."""

    help = "Loads the demo data once."

    @transaction.atomic
    def handle(self, *args, **options):
        """Make the account and its jobs."""
        people = get_user_model().objects
        if people.filter(username=DEMO_NAME).exists():
            return
        user = people.create_user(DEMO_NAME, password=DEMO_PASSWORD, is_staff=True)
        for stem, (name, place) in JOBS.items():
            file = files("returnpath") / "examples" / f"{stem}.json"
            job = Job.objects.create(name=name, place=place, owner=user)
            revisions.start(job, loads(file.read_text("utf-8")), user, "Surveyed the place")
        call_command("demo_work")
        self.stdout.write(f"Loaded {len(JOBS)} demo jobs.")
