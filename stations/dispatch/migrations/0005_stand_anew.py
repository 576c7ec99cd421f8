from datetime import date

from django.db import migrations

LONG_AGO = date(2000, 1, 1)


def stand_anew(apps, schema_editor):
    """What its buyer sent back and nobody settled is in the house again: it is worked out anew as soon as somebody
    looks, as where a date has passed."""
    waiting = apps.get_model("dispatch", "Return").objects.filter(settled_at=None).exclude(received_at=None)
    units = list(waiting.values_list("sale__unit_id", flat=True))
    apps.get_model("units", "Unit").objects.filter(pk__in=units).update(again_on=LONG_AGO)


class Migration(migrations.Migration):
    dependencies = [("dispatch", "0004_here_again"), ("units", "0013_volts_and_amperes")]

    operations = [migrations.RunPython(stand_anew, migrations.RunPython.noop)]
