from getpass import getpass

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError
from django.db import transaction

from stations.people.models import Person, PersonRole, Role


class Command(BaseCommand):
    help = "Add somebody who may sign in; asks for a password."

    def add_arguments(self, parser):
        parser.add_argument("name", help="the sign-in name")
        parser.add_argument(
            "--role", action="append", choices=Role.values, default=[], help="may be given more than once"
        )
        parser.add_argument("--full-name", default="")

    @transaction.atomic
    def handle(self, *args, name, role, full_name="", **options):
        if Person.objects.filter(username=name).exists():
            raise CommandError(f"There is a {name} already.")
        password = getpass("Password: ")
        try:
            validate_password(password)
        except ValidationError as problem:
            raise CommandError(" ".join(problem.messages)) from problem
        first, _, last = full_name.partition(" ")
        person = Person.objects.create_user(
            name, password=password, first_name=first or name.capitalize(), last_name=last
        )
        PersonRole.objects.bulk_create(PersonRole(person=person, role=each) for each in role)
        self.stdout.write(f"Added {name}{': ' + ', '.join(role) if role else ', who may only look'}.")
