"""Sellers and offers come over from the units; their tables are there already."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("stock", "0001_initial"),
        ("units", "0004_offers_to_stock"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name="PartSeller",
                    fields=[
                        ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False)),
                        ("name", models.CharField(max_length=60, unique=True)),
                        ("postage", models.DecimalField(blank=True, decimal_places=2, max_digits=8, null=True)),
                        ("free_from", models.DecimalField(blank=True, decimal_places=2, max_digits=8, null=True)),
                    ],
                    options={
                        "ordering": ["name"],
                        "constraints": [
                            models.CheckConstraint(
                                condition=models.Q(("postage__isnull", True), ("postage__gte", 0), _connector="OR"),
                                name="postage_never_below_0",
                            ),
                            models.CheckConstraint(
                                condition=models.Q(("free_from__isnull", True), ("free_from__gte", 0), _connector="OR"),
                                name="free_from_0_up",
                            ),
                        ],
                    },
                ),
                migrations.CreateModel(
                    name="PartOffer",
                    fields=[
                        ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False)),
                        ("want", models.CharField(max_length=160)),
                        ("each", models.DecimalField(decimal_places=2, max_digits=8)),
                        ("most", models.PositiveSmallIntegerField(blank=True, null=True)),
                        ("days", models.PositiveSmallIntegerField(blank=True, null=True)),
                        ("claim", models.CharField(blank=True, max_length=120)),
                        ("seen_at", models.DateTimeField()),
                        (
                            "seen_by",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "seller",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="offers",
                                to="stock.partseller",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ["want", "each", "id"],
                        "constraints": [
                            models.UniqueConstraint(fields=("want", "seller"), name="one_offer_a_seller"),
                            models.CheckConstraint(condition=models.Q(("each__gte", 0)), name="offer_never_below_0"),
                        ],
                    },
                ),
            ],
        ),
    ]
