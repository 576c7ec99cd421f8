import django.db.models.deletion
from django.db import migrations, models
from django.db.models import F, Q


class Migration(migrations.Migration):
    dependencies = [
        ("buying", "0008_weight_in_kilograms"),
        ("ledger", "0003_happened_on"),
    ]

    operations = [
        migrations.AddField(
            model_name="lotline",
            name="not_come",
            field=models.PositiveSmallIntegerField(default=0, editable=False),
        ),
        migrations.AddConstraint(
            model_name="lotline",
            constraint=models.CheckConstraint(
                condition=Q(quantity__gte=F("received") + F("not_come")), name="what_does_not_come_is_not_received"
            ),
        ),
        migrations.AddField(
            model_name="lot",
            name="lost",
            field=models.DecimalField(decimal_places=2, default=0, editable=False, max_digits=12),
        ),
        migrations.AddField(
            model_name="lot",
            name="lost_posting",
            field=models.OneToOneField(
                blank=True,
                null=True,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="+",
                to="ledger.posting",
            ),
        ),
    ]
