from django.core.management.base import BaseCommand, CommandError

from demo import marrowick
from stations.buying.models import Lot
from stations.people.models import Person


class Command(BaseCommand):
    help = "Load the sample shop of Marrowick into an empty database."

    def add_arguments(self, parser):
        parser.add_argument("--if-empty", action="store_true", help="load nothing when there is data")

    def handle(self, *args, if_empty=False, **options):
        if Person.objects.exists() or Lot.objects.exists():
            if not if_empty:
                raise CommandError("The database is not empty. The demo shop is only loaded into an empty one.")
        else:
            self.stdout.write("Loading the demo shop.")
            marrowick.load()
        runa = Person.objects.filter(username="runa").first()
        if runa and runa.check_password("harbour-runa"):
            self.stdout.write(
                "Demo sign-ins: runa / harbour-runa (owner), tobin / harbour-tobin (technician),"
                " vera / harbour-vera (viewer)"
            )
