"""Loads the demo's account and jobs, once."""

import json
from importlib import resources

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand
from django.db import transaction

from justloop.accounts.views import DEMO_NAME, DEMO_PASSWORD
from justloop.jobs import revisions
from justloop.jobs.models import Job
from returnpath.site import loads

FILES = ("larkfield", "millrace", "pebblewick")


class Command(BaseCommand):
    """``manage.py demo``: does nothing where the demo's account is there already."""

    help = "Loads the demo data once."

    @transaction.atomic
    def handle(self, *args, **options):
        """Make the account and its jobs."""
        people = get_user_model().objects
        if people.filter(username=DEMO_NAME).exists():
            return
        user = people.create_user(DEMO_NAME, password=DEMO_PASSWORD)
        folder = resources.files("justloop.demo")
        for name in FILES:
            data = json.loads(folder.joinpath(f"{name}.json").read_text("utf-8"))
            job = Job.objects.create(name=data["name"], place=data["place"], owner=user)
            revisions.start(job, loads(json.dumps(data["job"])), user, "Surveyed the service")
        self.stdout.write(f"Loaded {len(FILES)} demo jobs.")
