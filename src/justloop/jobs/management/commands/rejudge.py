"""``manage.py rejudge``: every job's newest revision judged by this engine, for the Jobs list."""

from django.core.management.base import BaseCommand

from justloop.jobs import safekeeping


class Command(BaseCommand):
    """Run by ``migrate`` where the engine is another than the one that judged last."""

    help = "Judges every job's newest revision anew, so that the Jobs list is of this engine."

    def add_arguments(self, parser):
        """Whether only where the engine is another."""
        parser.add_argument("--if-needed", action="store_true")

    def handle(self, *args, **options):
        """Judge them, with progress."""
        if options["if_needed"] and not safekeeping.is_judged_by_another():
            return
        for done, count, problem in safekeeping.rejudge():
            if problem:
                self.stdout.write(problem)
            if done == count or done % 25 == 0:
                self.stdout.write(f"judged {done} of {count} jobs")
