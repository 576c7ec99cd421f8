from django.core.management.base import BaseCommand, CommandError

from stations.people import second_factor, services
from stations.people.models import Person


class Command(BaseCommand):
    help = "Print an address at which a password is chosen once: for NAME, or for the first owner of an empty shop."

    def add_arguments(self, parser):
        parser.add_argument("name", nargs="?", help="the sign-in name; without it, the first owner if there is none")
        parser.add_argument("--no-second-factor", action="store_true", help="NAME’s phone is lost, and the list too")
        parser.add_argument("--at", default="", help="how the shop is reached: https://shop.example")

    def handle(self, *args, name, at, no_second_factor, **options):
        person = self.named(name) if name else services.first_owner()
        if person is not None and no_second_factor:
            second_factor.forget(person)
        if person is not None:
            self.stdout.write(at.rstrip("/") + services.one_time_address(person))

    def named(self, name: str) -> Person:
        person = Person.objects.filter(username=name).first()
        if person is None:
            raise CommandError(f"Nobody signs in as {name}.")
        if not person.is_active:
            raise CommandError(f"{name} is retired; an owner can bring them back.")
        return person
