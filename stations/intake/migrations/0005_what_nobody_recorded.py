"""What the application filled in by itself is taken back: nobody recorded it, so it is not known."""

from django.db import migrations
from django.db.models import F

FILLED_IN = "230 V, 50 Hz"


def take_back(apps, schema_editor):
    units = apps.get_model("intake", "Unit").objects
    units.filter(mains=FILLED_IN).update(mains="")
    units.filter(adapter_polarity="none").exclude(supply="external_ac").update(adapter_polarity="unknown")
    # No model, and intake not finished: these stood at what a new unit was given.
    never = units.filter(model=None, assessed_at=None)
    never.filter(supply="switching").update(supply="unknown")
    never.filter(battery="none").update(battery="unknown")
    never.filter(drives=0).update(drives=None)
    never.filter(keyboard=True).update(keyboard=None)
    never.filter(picture_tube=False).update(picture_tube=None)
    never.filter(data_on_board=False).update(data_on_board=None)
    # Who finished intake had the map of its faces before them.
    units.filter(assessed_at__isnull=False, looked_over_at=None).update(looked_over_at=F("assessed_at"))


class Migration(migrations.Migration):
    dependencies = [("intake", "0004_unknown_is_a_value")]
    operations = [migrations.RunPython(take_back, migrations.RunPython.noop)]
