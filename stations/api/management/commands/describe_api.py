import json
from pathlib import Path

from django.core.management import BaseCommand

from stations.api.urls import api


class Command(BaseCommand):
    help = "Write the OpenAPI file that describes what other programs read."

    def add_arguments(self, parser):
        parser.add_argument("file", type=Path, help="where to: docs/openapi.json")

    def handle(self, *, file: Path, **options):
        file.write_text(json.dumps(api.get_openapi_schema(), indent=1, ensure_ascii=False) + "\n")
        self.stdout.write(f"{file}: {file.stat().st_size} bytes")
