"""Results from before it was recorded whether the unit had power during the step."""

from django.db import migrations

from core.bench.check_library import LIBRARY
from core.bench.more_checks import AT_HAND

POWERED = ("supply", "power", "function", "soak", "closed")


def say_so(apps, schema_editor):
    codes = {check.code for check in (*LIBRARY, *AT_HAND) if check.group in POWERED}
    codes |= set(apps.get_model("bench", "BenchCheck").objects.filter(group__in=POWERED).values_list("code", flat=True))
    results = apps.get_model("bench", "StepResult").objects
    results.filter(code__in=codes, outcome__in=("pass", "fail")).update(powered=True)


class Migration(migrations.Migration):
    dependencies = [("bench", "0007_own_tries_and_sounds")]
    operations = [migrations.RunPython(say_so, migrations.RunPython.noop)]
