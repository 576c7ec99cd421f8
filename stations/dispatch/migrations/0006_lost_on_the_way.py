from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("dispatch", "0005_stand_anew"),
        ("ledger", "0003_happened_on"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            model_name="parcel",
            name="lost",
            field=models.BooleanField(default=False),
        ),
        migrations.AddConstraint(
            model_name="parcel",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    ("lost", False),
                    models.Q(("arrived_at__isnull", True), ("damage_at__isnull", False)),
                    _connector="OR",
                ),
                name="what_is_lost_never_arrived",
            ),
        ),
    ]
