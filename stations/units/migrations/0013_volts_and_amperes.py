from decimal import Decimal

import django.core.validators
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("units", "0012_minutes_ahead"),
    ]

    operations = [
        migrations.AlterField(
            model_name="unit",
            name="adapter_amps",
            field=models.DecimalField(
                blank=True,
                decimal_places=3,
                max_digits=6,
                null=True,
                validators=[
                    django.core.validators.MinValueValidator(Decimal("0.001"), "Above 0."),
                    django.core.validators.MaxValueValidator(Decimal("50"), "50 A at most: 500 mA are 0.5."),
                ],
            ),
        ),
        migrations.AlterField(
            model_name="unit",
            name="adapter_volts",
            field=models.DecimalField(
                blank=True,
                decimal_places=3,
                max_digits=6,
                null=True,
                validators=[
                    django.core.validators.MinValueValidator(Decimal("0.001"), "Above 0."),
                    django.core.validators.MaxValueValidator(
                        Decimal("100"), "100 V at most: an adapter gives less than the mains."
                    ),
                ],
            ),
        ),
    ]
