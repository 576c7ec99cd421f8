import django.core.validators
import django.db.models.deletion
from django.db import migrations, models

FIELDS = ("agreement", "refused_work", "commission_percent")
AT_MOST = 500


def to_rows(apps, schema_editor):
    units, terms = apps.get_model("units", "Unit"), apps.get_model("units", "OwnersTerms")
    rows = units.objects.exclude(holding="owned").values("pk", *FIELDS)
    terms.objects.bulk_create(
        (terms(unit_id=row["pk"], **{name: row[name] for name in FIELDS}) for row in rows.iterator()),
        batch_size=AT_MOST,
    )


def to_units(apps, schema_editor):
    units, terms = apps.get_model("units", "Unit"), apps.get_model("units", "OwnersTerms")
    for row in terms.objects.values("unit_id", *FIELDS).iterator():
        units.objects.filter(pk=row["unit_id"]).update(**{name: row[name] for name in FIELDS})


class Migration(migrations.Migration):
    dependencies = [
        ("units", "0009_unit_came_back_at"),
    ]

    operations = [
        migrations.CreateModel(
            name="OwnersTerms",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False)),
                ("agreement", models.CharField(blank=True, max_length=300)),
                ("refused_work", models.CharField(blank=True, max_length=300)),
                (
                    "commission_percent",
                    models.DecimalField(
                        decimal_places=2,
                        default=0,
                        max_digits=5,
                        validators=[
                            django.core.validators.MinValueValidator(0),
                            django.core.validators.MaxValueValidator(100),
                        ],
                    ),
                ),
                (
                    "unit",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE, related_name="owners_terms", to="units.unit"
                    ),
                ),
            ],
            options={
                "constraints": [
                    models.CheckConstraint(
                        condition=models.Q(("commission_percent__gte", 0), ("commission_percent__lte", 100)),
                        name="commission_0_to_100",
                    )
                ],
            },
        ),
        migrations.RunPython(to_rows, to_units),
        migrations.RemoveField(model_name="unit", name="agreement"),
        migrations.RemoveField(model_name="unit", name="commission_percent"),
        migrations.RemoveField(model_name="unit", name="refused_work"),
    ]
