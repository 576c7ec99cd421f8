from datetime import date

from django.db import migrations, models

GONE = ("returned", "scrapped", "closed", "sent")
LONG_AGO = date(2000, 1, 1)


def stand_anew(apps, schema_editor):
    """What is ahead after the next step counts too, when it is asked what to do next: each is worked out anew as soon as
    somebody looks, as where a date has passed."""
    apps.get_model("units", "Unit").objects.exclude(stage__in=GONE).update(again_on=LONG_AGO)


class Migration(migrations.Migration):
    dependencies = [("units", "0011_stand_anew")]

    operations = [
        migrations.AddField("unit", "minutes_ahead", models.PositiveSmallIntegerField(default=0)),
        migrations.RunPython(stand_anew, migrations.RunPython.noop),
    ]
