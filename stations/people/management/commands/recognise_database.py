from django.core.management.base import BaseCommand, CommandError
from django.db import OperationalError, connection
from django.db.migrations.loader import MigrationLoader


class Command(BaseCommand):
    help = (
        "End with an error where the tables were made by a version that is not known here; tell what is done to them."
    )

    def handle(self, *args, **options):
        try:
            loader = MigrationLoader(connection, ignore_no_migrations=True)
        except OperationalError as problem:
            raise CommandError(f"The database does not answer: {problem.args[-1]}.") from problem
        strange = sorted(f"{app}.{name}" for app, name in set(loader.applied_migrations) - set(loader.disk_migrations))
        if strange:
            raise CommandError(
                f"This database was made by another version, most likely a newer one ({len(strange)} steps such as "
                f"{strange[0]} are not known here): start that one. Or begin anew with this one: move db and media "
                "under var elsewhere, and put back a backup that was made before."
            )
        left = len(set(loader.disk_migrations) - set(loader.applied_migrations))
        if not loader.applied_migrations:
            self.stdout.write("Making the tables; that takes about a minute.")
        elif left:
            self.stdout.write(f"Bringing the tables up to date, in {left} step{'' if left == 1 else 's'}.")
