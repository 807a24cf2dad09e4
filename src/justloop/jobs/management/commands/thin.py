"""``manage.py thin``: drop what is kept only for a while."""

from datetime import timedelta

from django.contrib.sessions.models import Session
from django.core.management.base import BaseCommand
from django.utils import timezone

from justloop.accounts import audit
from justloop.accounts.models import AUDIT_DAYS, Act, Entry, Link, Seat
from justloop.jobs.models import BIN_DAYS, Done, Job


class Command(BaseCommand):
    """Sessions that are over, the marks of forms that were done, jobs long in the bin."""

    help = "Drops sessions that are over, the marks of forms done, and jobs 30 days in the bin."

    def handle(self, *args, **options):
        """Delete them."""
        now = timezone.now()
        over, _ = Session.objects.filter(expire_date__lt=now).delete()
        done, _ = Done.objects.filter(at__lt=now - timedelta(days=1)).delete()
        log, _ = Entry.objects.filter(at__lt=now - timedelta(days=AUDIT_DAYS)).delete()
        links, _ = Link.objects.filter(until__lt=now - timedelta(days=AUDIT_DAYS)).delete()
        Seat.objects.exclude(session_key__in=Session.objects.values("session_key")).delete()
        past = now - timedelta(days=BIN_DAYS)
        binned = Job.objects.filter(shelf=Job.Shelf.BIN, shelved_at__lt=past)
        jobs = binned.count()
        for name in binned.values_list("name", flat=True):
            audit.note(None, Act.DELETE, f"{name}: 30 days in the bin", who="thin")
        binned.delete()
        self.stdout.write(
            f"Dropped {over} sessions, {done} marks, {jobs} binned jobs, {log} old lines of the"
            f" audit log and {links} old links."
        )
