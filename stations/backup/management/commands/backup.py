from pathlib import Path

from django.core.management.base import BaseCommand, CommandError

from stations.backup import kept
from stations.backup.making import make
from stations.common.refusals import Refused


class Command(BaseCommand):
    help = "Write one file with everything of the shop, while people work; into its own folder where none is said."

    def add_arguments(self, parser):
        parser.add_argument("folder", nargs="?", type=Path)

    def handle(self, *args, folder=None, **options):
        try:
            path = make(folder)
        except (Refused, OSError) as problem:
            raise CommandError(str(problem)) from problem
        if folder is None:
            kept.let_go()
        self.stdout.write(f"{path}, {path.stat().st_size / 1024 / 1024:,.1f} MB")
