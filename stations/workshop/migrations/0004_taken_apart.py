"""Units that were taken apart before that was a fact of the unit: their parts carry their cost."""

from django.db import migrations


def say_so(apps, schema_editor):
    units = apps.get_model("intake", "Unit").objects
    parts = apps.get_model("workshop", "RecoveredPart").objects.order_by("id")
    for unit_id, when in parts.values_list("unit_id", "when"):
        units.filter(pk=unit_id, taken_apart_at=None).update(taken_apart_at=when)


class Migration(migrations.Migration):
    dependencies = [("workshop", "0003_what_a_job_involves"), ("intake", "0004_unknown_is_a_value")]
    operations = [migrations.RunPython(say_so, migrations.RunPython.noop)]
