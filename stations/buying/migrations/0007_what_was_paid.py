from django.db import migrations, models


def say_priced(apps, schema_editor):
    """Lots with a price on record, and those that came from where there is none."""
    lots = apps.get_model("buying", "Lot").objects
    charges = apps.get_model("buying", "LotCharge").objects.filter(replaced_at=None, kind="price")
    lots.filter(source_kind__in=["donation", "custody"]).update(priced=True)
    lots.filter(pk__in=list(charges.values_list("lot_id", flat=True))).update(priced=True)


class Migration(migrations.Migration):
    dependencies = [
        ("buying", "0006_longer_words"),
    ]

    operations = [
        migrations.AddField(
            model_name="lot",
            name="priced",
            field=models.BooleanField(default=False, editable=False),
        ),
        migrations.RunPython(say_priced, migrations.RunPython.noop),
    ]
