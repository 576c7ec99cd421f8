from django.db import migrations, models
from django.db.models import Q


class Migration(migrations.Migration):
    dependencies = [("people", "0010_tax_by_day_and_log")]

    operations = [
        migrations.RemoveConstraint("shopsettings", "a_place_has_both_degrees"),
        migrations.AddConstraint(
            "shopsettings",
            models.CheckConstraint(
                condition=Q(latitude__isnull=True, longitude__isnull=True)
                | Q(
                    latitude__isnull=False,
                    longitude__isnull=False,
                    latitude__range=(-90, 90),
                    longitude__range=(-180, 180),
                ),
                name="a_place_has_both_degrees",
            ),
        ),
    ]
