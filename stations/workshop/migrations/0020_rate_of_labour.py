from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("workshop", "0019_never_begun")]

    operations = [
        migrations.AddField(
            model_name="labourentry",
            name="rate",
            field=models.DecimalField(decimal_places=2, editable=False, max_digits=8, null=True),
        ),
    ]
