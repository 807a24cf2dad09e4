"""``manage.py thin``: drop what is kept only for a while."""

from datetime import timedelta

from django.contrib.sessions.models import Session
from django.core.management.base import BaseCommand
from django.utils import timezone

from justloop.jobs.models import BIN_DAYS, Done, Job


class Command(BaseCommand):
    """Sessions that are over, the marks of forms that were done, jobs long in the bin."""

    help = "Drops sessions that are over, the marks of forms done, and jobs 30 days in the bin."

    def handle(self, *args, **options):
        """Delete them."""
        now = timezone.now()
        over, _ = Session.objects.filter(expire_date__lt=now).delete()
        done, _ = Done.objects.filter(at__lt=now - timedelta(days=1)).delete()
        past = now - timedelta(days=BIN_DAYS)
        binned = Job.objects.filter(shelf=Job.Shelf.BIN, shelved_at__lt=past)
        jobs = binned.count()
        binned.delete()
        self.stdout.write(f"Dropped {over} sessions, {done} marks and {jobs} binned jobs.")
