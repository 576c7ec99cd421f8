import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models
from django.db.models import F, Q

IN_ORDER = Q(break_from__isnull=True, break_until__isnull=True, begins__lt=F("ends")) | Q(
    break_from__isnull=False,
    break_until__isnull=False,
    begins__lt=F("break_from"),
    break_from__lt=F("break_until"),
    break_until__lt=F("ends"),
)


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("day", "0003_what_is_wished"),
    ]

    operations = [
        migrations.RenameModel("Absence", "HoursOfDay"),
        migrations.AlterModelOptions("hoursofday", options={"ordering": ["day", "person"]}),
        migrations.AlterField(
            "hoursofday",
            "person",
            models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE,
                related_name="hours_of_days",
                to=settings.AUTH_USER_MODEL,
            ),
        ),
        *(
            migrations.AddField("hoursofday", name, models.TimeField(blank=True, null=True))
            for name in ("begins", "break_from", "break_until", "ends")
        ),
        # The person's key rests on the old index until there is another.
        migrations.AddConstraint(
            "hoursofday", models.UniqueConstraint(fields=["person", "day"], name="hours_once_a_day")
        ),
        migrations.RemoveConstraint("hoursofday", "absent_once_a_day"),
        migrations.AddConstraint(
            "hoursofday",
            models.CheckConstraint(
                condition=Q(begins__isnull=True, break_from__isnull=True, break_until__isnull=True, ends__isnull=True)
                | Q(begins__isnull=False, ends__isnull=False) & IN_ORDER,
                name="hours_of_a_day_in_order",
            ),
        ),
        # A break that nobody said made this unknown, which a database lets pass.
        migrations.RemoveConstraint("workinghours", "hours_in_order"),
        migrations.AddConstraint("workinghours", models.CheckConstraint(condition=IN_ORDER, name="hours_in_order")),
    ]
