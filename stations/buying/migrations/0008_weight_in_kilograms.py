from decimal import Decimal

import django.core.validators
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("buying", "0007_what_was_paid"),
    ]

    operations = [
        migrations.AlterField(
            model_name="lotline",
            name="weight_kg",
            field=models.DecimalField(
                blank=True,
                decimal_places=2,
                max_digits=7,
                null=True,
                validators=[
                    django.core.validators.MinValueValidator(Decimal("0"), "This may not be below 0."),
                    django.core.validators.MaxValueValidator(Decimal("1000"), "1000 kg at most: 9400 g are 9.4."),
                ],
            ),
        ),
    ]
