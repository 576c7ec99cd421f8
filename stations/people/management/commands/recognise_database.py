from django.core.management.base import BaseCommand, CommandError
from django.db import connection
from django.db.migrations.loader import MigrationLoader


class Command(BaseCommand):
    help = "End with an error when the database was made by a version whose tables this one can't bring up to date."

    def handle(self, *args, **options):
        loader = MigrationLoader(connection, ignore_no_migrations=True)
        strange = sorted(f"{app}.{name}" for app, name in set(loader.applied_migrations) - set(loader.disk_migrations))
        if strange:
            raise CommandError(
                f"This database was made by an earlier version ({len(strange)} steps such as {strange[0]} are not "
                "known here)."
            )
