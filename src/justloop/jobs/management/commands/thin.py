"""``manage.py thin``: drop what is kept only for a while."""

from datetime import timedelta

from django.contrib.sessions.models import Session
from django.core.management.base import BaseCommand
from django.utils import timezone

from justloop.jobs.models import Done


class Command(BaseCommand):
    """Sessions that are over, and the marks of forms that were done."""

    help = "Drops sessions that are over and the marks of forms done more than a day ago."

    def handle(self, *args, **options):
        """Delete them."""
        now = timezone.now()
        over, _ = Session.objects.filter(expire_date__lt=now).delete()
        done, _ = Done.objects.filter(at__lt=now - timedelta(days=1)).delete()
        self.stdout.write(f"Dropped {over} sessions and {done} marks.")
