"""Django's makemigrations, blind to labels: what a field is called on screen is no change of the database."""

from functools import wraps
from unittest.mock import patch

from django.core.management.commands.makemigrations import Command as MakeMigrations
from django.db.models import Field

LABELS = ("verbose_name", "help_text", "choices")


class Command(MakeMigrations):
    def handle(self, *labels, **options):
        whole = Field.deconstruct

        @wraps(whole)
        def without_labels(field):
            name, path, args, kwargs = whole(field)
            return name, path, args, {key: value for key, value in kwargs.items() if key not in LABELS}

        with patch.object(Field, "deconstruct", without_labels):
            return super().handle(*labels, **options)
