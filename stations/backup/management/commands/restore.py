from pathlib import Path

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError

from stations.backup.restoring import look_through, restore
from stations.common.refusals import Refused


class Command(BaseCommand):
    help = "Put a backup back into an empty database, then prove its books and stages; --check only reads it through."

    def add_arguments(self, parser):
        parser.add_argument("file", type=Path)
        parser.add_argument("--check", action="store_true", help="only tell whether it is whole")

    def handle(self, *args, file, check=False, **options):
        try:
            found = look_through(file) if check else restore(file)
        except Refused as refusal:
            raise CommandError(refusal.message) from refusal
        told = f"{found.rows:,} rows and {len(found.media):,} files of {found.made_at}"
        if check:
            self.stdout.write(f"It is whole: {told}.")
            return
        self.stdout.write(f"Put back: {told}.")
        call_command("check_books", stdout=self.stdout)
        call_command("rebuild_stages", check=True, stdout=self.stdout)
