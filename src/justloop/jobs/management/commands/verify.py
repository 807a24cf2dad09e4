"""``manage.py verify``: every job's newest revision reads, studies and equals its summary."""

from django.core.management.base import BaseCommand, CommandError

from justloop.jobs import safekeeping
from justloop.jobs.models import Job


class Command(BaseCommand):
    """Exit code 1 where a job does not."""

    help = "Reads and studies every job's newest revision and compares it with what is stored."

    def handle(self, *args, **options):
        """Look at each job."""
        wrong = 0
        for job in Job.objects.order_by("pk").iterator():
            problem = safekeeping.problem_of(job)
            if problem:
                wrong += 1
                self.stdout.write(f"job {job.pk}, {job.name}: {problem}")
        if wrong:
            raise CommandError(f"{wrong} of {Job.objects.count()} jobs are not as they should be.")
        self.stdout.write(f"{Job.objects.count()} jobs read, study and equal what is stored.")
