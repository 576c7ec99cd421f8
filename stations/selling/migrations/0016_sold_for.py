from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("selling", "0015_grade_evidence")]

    operations = [
        migrations.AddField(
            model_name="pricestep",
            name="sold_for",
            field=models.DecimalField(blank=True, decimal_places=2, max_digits=10, null=True),
        ),
    ]
