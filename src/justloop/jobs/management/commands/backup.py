"""``manage.py backup FILE``: a whole copy of the database, taken while it is in use."""

from pathlib import Path

from django.core.management.base import BaseCommand, CommandError

from justloop.jobs import safekeeping


class Command(BaseCommand):
    """SQLite's online backup, verified before it is called done."""

    help = "Copies the database to FILE while it is in use, and verifies the copy."

    def add_arguments(self, parser):
        """The file."""
        parser.add_argument("file")

    def handle(self, *args, **options):
        """Copy and verify."""
        try:
            told = safekeeping.backup(Path(options["file"]))
        except safekeeping.Unkept as error:
            raise CommandError(str(error)) from None
        self.stdout.write(told)
