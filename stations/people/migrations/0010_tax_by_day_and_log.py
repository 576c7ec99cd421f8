from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("people", "0009_shopsettings_premium_counts")]

    operations = [
        migrations.AddField(
            model_name="shopsettings",
            name="tax_before",
            field=models.JSONField(default=list, editable=False),
        ),
        migrations.AddIndex(
            model_name="historyentry",
            index=models.Index(fields=["subject", "when"], name="history_of_a_kind"),
        ),
        migrations.AddIndex(
            model_name="historyentry",
            index=models.Index(fields=["who", "when"], name="history_of_somebody"),
        ),
    ]
