from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("people", "0009_shopsettings_premium_counts")]

    operations = [
        migrations.AddField(
            model_name="shopsettings",
            name="tax_before",
            field=models.JSONField(default=list, editable=False),
        ),
    ]
