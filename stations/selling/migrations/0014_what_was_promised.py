from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("selling", "0013_fees_and_owners")]

    operations = [
        migrations.AddField(
            model_name="sale",
            name=name,
            field=models.PositiveSmallIntegerField(default=0, editable=False),
        )
        for name in ("warranty_days", "withdrawal_days")
    ]
