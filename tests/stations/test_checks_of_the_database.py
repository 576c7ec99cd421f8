"""What is not known makes a comparison unknown, and a database lets pass what it can’t judge: no check may hang on
that."""

from collections.abc import Iterator
from datetime import UTC, date, datetime, time
from decimal import Decimal
from itertools import product
from typing import Any

from django.apps import apps
from django.db import models
from django.db.models import CheckConstraint, ExpressionWrapper, F, Q, Value
from django.db.models.sql.query import Query
from django.test import TestCase

# Two of each kind, in order: enough to be smaller, the same and larger.
SAMPLES: dict[type[models.Field], tuple] = {
    models.TimeField: (time(9), time(10)),
    models.DateTimeField: (datetime(2026, 3, 1, tzinfo=UTC), datetime(2026, 3, 2, tzinfo=UTC)),
    models.DateField: (date(2026, 3, 1), date(2026, 3, 2)),
    models.DecimalField: (Decimal(0), Decimal(1)),
    models.BooleanField: (False, True),
    models.CharField: ("", "x"),
}


def parts(condition: Q) -> Iterator[tuple[str, Any]]:
    for child in condition.children:
        if isinstance(child, Q):
            yield from parts(child)
        elif isinstance(child, tuple):
            yield child


def samples(field: models.Field, named: list[Any]) -> list[Any]:
    """Values to try: unknown where that may be, those the check names, and two in order."""
    two = next((two for kind, two in SAMPLES.items() if isinstance(field, kind)), (0, 1))
    plain = [one for value in named for one in (value if isinstance(value, list | tuple | set) else [value])]
    told = [one for one in plain if one is not None and not hasattr(one, "resolve_expression")]
    return list(dict.fromkeys([*([None] if field.null else []), *told, *two]))


def judged(condition: Q, row: dict[str, tuple[models.Field, Any]]) -> bool | None:
    """What the database says of such a row: None where it can’t tell."""
    query = Query(None)
    for name, (field, value) in row.items():
        kind = models.IntegerField() if isinstance(field, models.ForeignKey) else field
        query.add_annotation(Value(value, output_field=kind), name, select=False)
    query.add_annotation(ExpressionWrapper(condition, models.BooleanField()), "said")
    return query.get_compiler("default").execute_sql("single")[0]


class Unknown(TestCase):
    def test_no_choice_between_cases_is_passed_by_what_is_not_known(self):
        passed, tried = [], 0
        for model in apps.get_models():
            for check in model._meta.constraints:
                condition = getattr(check, "condition", None)
                if (
                    not isinstance(check, CheckConstraint)
                    or not isinstance(condition, Q)
                    or condition.connector != Q.OR
                ):
                    continue
                named: dict[str, list[Any]] = {}
                for path, value in parts(condition):
                    told = named.setdefault(path.split("__")[0], [])
                    told += [] if path.endswith("__isnull") else [value]
                    if isinstance(value, F):
                        named.setdefault(value.name, [])
                fields = {name: model._meta.get_field(name) for name in named}
                for values in product(*(samples(fields[name], told) for name, told in named.items())):
                    row = dict(zip(fields, values, strict=True))
                    tried += 1
                    if judged(condition, {name: (fields[name], value) for name, value in row.items()}) is None:
                        passed.append(f"{model.__name__}, {check.name}: {row}")
                        break
        self.assertEqual(passed, [])
        self.assertGreater(tried, 500)
