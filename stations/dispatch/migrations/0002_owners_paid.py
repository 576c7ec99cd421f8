"""What a channel gave back of its fee, and an owner’s part, stand on the sale from now on: summed from what was posted."""

from decimal import Decimal

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models
from django.db.models import Sum


def sum_up(apps, schema_editor):
    sales, refunds = apps.get_model("selling", "Sale").objects, apps.get_model("dispatch", "Refund").objects
    entries = apps.get_model("ledger", "LedgerEntry").objects.filter(account="unit", kind="payout")
    parts = dict(entries.order_by().values_list("posting").annotate(sum=Sum("amount")))
    for pk, posting in sales.filter(posting__in=parts).values_list("pk", "posting"):
        sales.filter(pk=pk).update(owners_part=parts[posting])
    back = refunds.order_by().values_list("sale").annotate(fee=Sum("fee_back"), owner=Sum("owner_back"))
    for pk, fee, owner in back:
        sales.filter(pk=pk).update(fee_back=fee, owner_back=owner or Decimal(0))


class Migration(migrations.Migration):
    dependencies = [
        ("dispatch", "0001_initial"),
        ("ledger", "0002_append_only"),
        ("selling", "0013_fees_and_owners"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="OwnerPayment",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False)),
                ("amount", models.DecimalField(decimal_places=2, max_digits=10)),
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
                        related_name="owner_payments",
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
                        condition=models.Q(("amount", 0), _negated=True), name="an_owner_is_paid_something"
                    )
                ],
            },
        ),
        migrations.RunPython(sum_up, migrations.RunPython.noop),
    ]
