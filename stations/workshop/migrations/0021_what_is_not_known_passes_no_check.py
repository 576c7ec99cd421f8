from django.db import migrations, models
from django.db.models import F, Q


class Migration(migrations.Migration):
    dependencies = [("workshop", "0020_rate_of_labour")]

    operations = [
        migrations.RemoveConstraint("sanitising", "sanitised_reads_back_clean"),
        migrations.AddConstraint(
            "sanitising",
            models.CheckConstraint(
                condition=Q(differing__isnull=True) | Q(differing=0, samples__isnull=False, samples__gt=F("differing")),
                name="sanitised_reads_back_clean",
            ),
        ),
    ]
