"""What a line is worth may be left unsaid; before, a 0 that stood there already meant both."""

from decimal import Decimal

import django.core.validators
from django.db import migrations, models
from django.db.models import Q


def leave_unsaid(apps, schema_editor):
    """A 0 for low, likely and high was never typed on purpose but where the cost was shared by value beside others."""
    LotLine = apps.get_model("buying", "LotLine")
    zeros = LotLine.objects.filter(worth_high=0)
    by_value = Q(lot__sharings__basis="value") | Q(lot__charges__basis="value", lot__charges__replaced_at=None)
    counted = set(zeros.filter(by_value).values_list("lot_id", flat=True))
    beside = set(LotLine.objects.filter(lot_id__in=counted, worth_high__gt=0).values_list("lot_id", flat=True))
    zeros.exclude(lot_id__in=beside).update(worth_low=None, worth_likely=None, worth_high=None)


def count_as_nothing(apps, schema_editor):
    unsaid = apps.get_model("buying", "LotLine").objects.filter(worth_likely=None)
    unsaid.update(worth_low=0, worth_likely=0, worth_high=0)


class Migration(migrations.Migration):
    dependencies = [
        ("buying", "0004_spread_tax_and_what_became"),
    ]

    operations = [
        migrations.RemoveConstraint(
            model_name="lotline",
            name="worth_low_likely_high_in_order",
        ),
        migrations.AlterField(
            model_name="lotline",
            name="worth_high",
            field=models.DecimalField(
                blank=True,
                decimal_places=2,
                max_digits=10,
                null=True,
                validators=[django.core.validators.MinValueValidator(Decimal("0"), "This may not be below 0.")],
            ),
        ),
        migrations.AlterField(
            model_name="lotline",
            name="worth_likely",
            field=models.DecimalField(
                blank=True,
                decimal_places=2,
                max_digits=10,
                null=True,
                validators=[django.core.validators.MinValueValidator(Decimal("0"), "This may not be below 0.")],
            ),
        ),
        migrations.AlterField(
            model_name="lotline",
            name="worth_low",
            field=models.DecimalField(
                blank=True,
                decimal_places=2,
                max_digits=10,
                null=True,
                validators=[django.core.validators.MinValueValidator(Decimal("0"), "This may not be below 0.")],
            ),
        ),
        migrations.RunPython(leave_unsaid, count_as_nothing),
        migrations.AddConstraint(
            model_name="lotline",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(("worth_high__isnull", True), ("worth_likely__isnull", True), ("worth_low__isnull", True)),
                    models.Q(
                        ("worth_high__gte", models.F("worth_likely")),
                        ("worth_high__isnull", False),
                        ("worth_likely__gte", models.F("worth_low")),
                        ("worth_likely__isnull", False),
                        ("worth_low__gte", 0),
                        ("worth_low__isnull", False),
                    ),
                    _connector="OR",
                ),
                name="worth_low_likely_high_in_order",
            ),
        ),
    ]
