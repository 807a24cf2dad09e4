"""``manage.py restore FILE``: put a backup in the place of the database; the old one is kept."""

from pathlib import Path

from django.core.management.base import BaseCommand, CommandError

from justloop.jobs import safekeeping


class Command(BaseCommand):
    """Stop the server first."""

    help = "Puts a verified backup in the place of the database; the old one is kept beside it."

    def add_arguments(self, parser):
        """The file."""
        parser.add_argument("file")

    def handle(self, *args, **options):
        """Verify and put in place."""
        try:
            told = safekeeping.restore(Path(options["file"]))
        except safekeeping.Unkept as error:
            raise CommandError(str(error)) from None
        self.stdout.write(told)
