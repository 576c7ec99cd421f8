"""What units were found to be, of those that a test with power had been tried on."""

from django.db import migrations
from django.db.models import F


def found(apps, schema_editor):
    rows = apps.get_model("buying", "TurnedOut").objects
    rows.filter(outcome__in=["works", "repairable"]).update(found=F("outcome"))
    told = apps.get_model("bench", "StepResult").objects.filter(powered=True, outcome__in=["pass", "fail"])
    tried = list(told.values_list("run__unit__number", flat=True).distinct())
    rows.filter(outcome__in=["parts", "worthless"], unit_number__in=tried).update(found=F("outcome"))


class Migration(migrations.Migration):
    dependencies = [("bench", "0002_what_was_changed"), ("buying", "0003_what_was_found")]
    operations = [migrations.RunPython(found, migrations.RunPython.noop)]
