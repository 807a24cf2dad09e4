"""The demo's work: dates behind and ahead, a visit that failed, a price list. Relative to today."""

from datetime import timedelta
from importlib.resources import files

from django.core.management.base import BaseCommand
from django.db import transaction
from django.utils import timezone

from justloop.jobs.models import Job
from justloop.planning.models import JobDate, Price, Remark, Visit
from justloop.planning.money import read_prices

#: job → its dates: kind, days from today, done, whether its owner must be there, a note.
DATES = {
    "Pebblewick Cottage": (
        ("application", -24, True, False, ""), ("permit", -15, True, False, "P-87"),
        ("electrodes", -6, True, True, "four rods, inspector seen"),
        ("rough", 2, False, True, ""), ("final", 16, False, True, ""),
    ),
    "Millrace Terrace 9": (
        ("application", -5, True, False, ""), ("permit", 4, False, False, ""),
        ("outage", 3, False, True, "08:00 to 14:00"), ("final", 9, False, True, ""),
    ),
    "Larkfield Barn": (
        ("application", -40, True, False, ""), ("permit", -31, True, False, "P-61, farm class"),
        ("rough", -3, True, True, ""), ("re-inspection", 2, False, True, ""),
    ),
}  # fmt: skip


class Command(BaseCommand):
    """Called by ``demo``; does nothing where a job has dates already."""

    help = "Gives the demo's jobs a past and a future."

    @transaction.atomic
    def handle(self, *args, **options):
        """Dates, a visit, prices."""
        today = timezone.localdate()
        for name, rows in DATES.items():
            job = Job.objects.filter(name=name).first()
            if job is None or job.dates.exists():
                continue
            for kind, days, done, present, note in rows:
                JobDate.objects.create(
                    job=job, kind=kind, day=today + timedelta(days=days), done=done, note=note,
                    who=job.owner if present else None, by=job.owner,
                )  # fmt: skip
        self._visit(today)
        if not Price.objects.exists():
            text = (files("returnpath") / "examples" / "prices.csv").read_text("utf-8")
            Price.objects.bulk_create(read_prices(text))

    def _visit(self, today):
        job = Job.objects.filter(name="Larkfield Barn").first()
        if job is None or job.visits.exists():
            return
        made = Visit.objects.create(job=job, kind="rough", day=today - timedelta(days=3),
                                    inspector="Desk 2", result="failed", by=job.owner)  # fmt: skip
        Remark.objects.create(visit=made, text="Rod clamp not listed for burial", rests_on="rule",
                              where="250.70")  # fmt: skip
        Remark.objects.create(visit=made, rests_on="local", where="the office, since spring",
                              text="Photo of each rod before its hole is closed")  # fmt: skip
