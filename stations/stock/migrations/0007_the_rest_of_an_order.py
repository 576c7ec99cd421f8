import django.db.models.deletion
from django.db import migrations, models
from django.db.models import F, Q


class Migration(migrations.Migration):
    dependencies = [("stock", "0006_drawers_put_away")]

    operations = [
        migrations.RemoveConstraint("stockitem", "reorder_up_to_more"),
        migrations.AddConstraint(
            "stockitem",
            models.CheckConstraint(
                condition=Q(reorder_at__isnull=True, reorder_to__isnull=True)
                | Q(reorder_at__isnull=False, reorder_at__gte=0)
                & (Q(reorder_to__isnull=True) | Q(reorder_to__gt=F("reorder_at"))),
                name="reorder_up_to_more",
            ),
        ),
        migrations.AddField("partorder", "rest", models.CharField(blank=True, max_length=6)),
        migrations.AddField(
            "partorder",
            "rest_of",
            models.ForeignKey(
                blank=True,
                null=True,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="rests",
                to="stock.partorder",
            ),
        ),
        migrations.AddConstraint(
            "partorder",
            models.CheckConstraint(
                condition=Q(rest="") | Q(arrived_at__isnull=False), name="only_of_what_came_there_is_a_rest"
            ),
        ),
    ]
