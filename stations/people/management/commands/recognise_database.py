from django.core.management.base import BaseCommand, CommandError
from django.db import OperationalError, connection
from django.db.migrations.loader import MigrationLoader


class Command(BaseCommand):
    help = "End with an error when the database was made by a version whose tables this one can't bring up to date."

    def handle(self, *args, **options):
        try:
            loader = MigrationLoader(connection, ignore_no_migrations=True)
        except OperationalError as problem:
            raise CommandError(f"The database does not answer: {problem.args[-1]}.") from problem
        strange = sorted(f"{app}.{name}" for app, name in set(loader.applied_migrations) - set(loader.disk_migrations))
        if strange:
            raise CommandError(
                f"This database was made by an earlier version ({len(strange)} steps such as {strange[0]} are not "
                "known here). Take the records along with that version (the units’ record.json, models.json, the CSV "
                "lists), or discard them: remove db and media under var."
            )
