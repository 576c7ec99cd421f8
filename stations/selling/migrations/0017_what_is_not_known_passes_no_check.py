from django.db import migrations, models
from django.db.models import F, Q


class Migration(migrations.Migration):
    dependencies = [("selling", "0016_sold_for")]

    operations = [
        migrations.RemoveConstraint("sale", "a_sale_stands_or_ended"),
        migrations.AddConstraint(
            "sale",
            models.CheckConstraint(
                condition=Q(open_for__isnull=False, open_for=F("unit"), ended_at__isnull=True)
                | Q(open_for__isnull=True, ended_at__isnull=False),
                name="a_sale_stands_or_ended",
            ),
        ),
    ]
