from datetime import date

from django.db import migrations

LONG_AGO = date(2000, 1, 1)


def stand_anew(apps, schema_editor):
    """What its buyer sent back and nobody settled is in the house again: it is worked out anew as soon as somebody
    looks, as where a date has passed."""
    waiting = apps.get_model("dispatch", "Return").objects.filter(settled_at=None).exclude(received_at=None)
    units = apps.get_model("units", "Unit").objects
    for unit_id, moment in waiting.values_list("sale__unit_id", "received_at"):
        units.filter(pk=unit_id).update(again_on=LONG_AGO, came_back_at=moment)


class Migration(migrations.Migration):
    dependencies = [("dispatch", "0004_here_again"), ("units", "0013_volts_and_amperes")]

    operations = [migrations.RunPython(stand_anew, migrations.RunPython.noop)]
