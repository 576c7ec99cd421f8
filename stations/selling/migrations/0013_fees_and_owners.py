from decimal import Decimal

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("ledger", "0002_append_only"),
        ("selling", "0012_channels_in_use"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="FeeChange",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False)),
                ("amount", models.DecimalField(decimal_places=2, max_digits=10)),
                ("why", models.CharField(max_length=120)),
                ("when", models.DateTimeField()),
                (
                    "posting",
                    models.OneToOneField(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to="ledger.posting",
                    ),
                ),
                (
                    "sale",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="fee_changes",
                        to="selling.sale",
                    ),
                ),
                (
                    "who",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={
                "ordering": ["id"],
                "constraints": [
                    models.CheckConstraint(
                        condition=models.Q(("amount", 0), _negated=True), name="a_fee_changes_by_something"
                    )
                ],
            },
        ),
        migrations.AddField(
            model_name="sale",
            name="fee_back",
            field=models.DecimalField(decimal_places=2, default=Decimal("0.00"), editable=False, max_digits=10),
        ),
        migrations.AddField(
            model_name="sale",
            name="owners_part",
            field=models.DecimalField(decimal_places=2, default=Decimal("0.00"), editable=False, max_digits=10),
        ),
        migrations.AddField(
            model_name="sale",
            name="owner_back",
            field=models.DecimalField(decimal_places=2, default=Decimal("0.00"), editable=False, max_digits=10),
        ),
        migrations.AddField(
            model_name="sale",
            name="owner_paid",
            field=models.DecimalField(decimal_places=2, default=Decimal("0.00"), editable=False, max_digits=10),
        ),
        migrations.AddConstraint(
            model_name="sale",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    ("owner_back__gte", 0),
                    ("owner_paid__gte", 0),
                    ("owners_part__gte", models.F("owner_back")),
                    ("owners_part__gte", models.F("owner_paid")),
                    ("price__gte", models.F("owners_part")),
                ),
                name="no_owner_gets_more_than_is_due",
            ),
        ),
        migrations.AddConstraint(
            model_name="sale",
            constraint=models.CheckConstraint(
                condition=models.Q(("fee_back__gte", 0), ("fee__gte", models.F("fee_back"))),
                name="no_more_of_a_fee_comes_back_than_was_kept",
            ),
        ),
    ]
