from django.db import migrations, models

# What stood there until now where nobody measured anything.
STOOD = {"width_mm": 400, "height_mm": 150, "depth_mm": 380}


def leave_unsaid(apps, schema_editor):
    apps.get_model("catalogue", "MachineModel").objects.filter(**STOOD).update(**dict.fromkeys(STOOD))


def as_it_stood(apps, schema_editor):
    for name, value in STOOD.items():
        apps.get_model("catalogue", "MachineModel").objects.filter(**{name: None}).update(**{name: value})


class Migration(migrations.Migration):
    dependencies = [
        ("catalogue", "0005_what_fits"),
    ]

    operations = [
        migrations.AlterField(
            model_name="machinemodel",
            name="depth_mm",
            field=models.PositiveSmallIntegerField(blank=True, null=True),
        ),
        migrations.AlterField(
            model_name="machinemodel",
            name="height_mm",
            field=models.PositiveSmallIntegerField(blank=True, null=True),
        ),
        migrations.AlterField(
            model_name="machinemodel",
            name="width_mm",
            field=models.PositiveSmallIntegerField(blank=True, null=True),
        ),
        migrations.RunPython(leave_unsaid, as_it_stood),
    ]
