"""By whose clock: a moment becomes a day or a time of day on the shop’s own, not on that of UTC or the database."""

import ast
from itertools import pairwise
from pathlib import Path

from django.apps import apps
from django.db.models import DateTimeField
from django.test import SimpleTestCase

ROOT = Path(__file__).resolve().parents[2]
# With these the database would cut a moment by its own tables of time zones, which it may not have.
CUT = {"date", "time", "year", "month", "day", "week", "week_day", "iso_week_day", "iso_year", "quarter", "hour"}
FUNCTIONS = ("Trunc", "Extract")


def sources():
    for path in sorted([*ROOT.glob("stations/**/*.py"), *ROOT.glob("core/**/*.py")]):
        if "migrations" not in path.parts:
            yield path.relative_to(ROOT), ast.walk(ast.parse(path.read_text()))


class ByTheShopsClock(SimpleTestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        fields = [field for model in apps.get_models() for field in model._meta.fields]
        cls.moments = {field.name for field in fields if isinstance(field, DateTimeField)}
        cls.others = {field.name for field in fields if not isinstance(field, DateTimeField)}

    def test_no_moment_is_worded_by_another(self):
        """What is worded is no field that keeps a moment, and not the moment it is: those are of UTC."""
        found = []
        for path, nodes in sources():
            for node in nodes:
                if isinstance(node, ast.FormattedValue) and node.format_spec and "%" in ast.unparse(node.format_spec):
                    of, words = node.value, ast.unparse(node.value)
                    kept = isinstance(of, ast.Attribute) and of.attr in self.moments - self.others
                    if kept or words == "clock.now()":
                        found.append(f"{path}:{node.lineno} {words}")
        self.assertEqual(found, [])

    def test_no_moment_is_cut_by_the_database(self):
        found = []
        for path, nodes in sources():
            for node in nodes:
                if isinstance(node, ast.keyword) and node.arg:
                    if any(of in self.moments and cut in CUT for of, cut in pairwise(node.arg.split("__"))):
                        found.append(f"{path}:{node.value.lineno} {node.arg}")
                elif isinstance(node, ast.ImportFrom) and node.module == "django.db.models.functions":
                    found += [f"{path}: {each.name}" for each in node.names if each.name.startswith(FUNCTIONS)]
        self.assertEqual(found, [])
