import django.core.validators
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("selling", "0009_bundle_under_the_floor"),
    ]

    operations = [
        migrations.AlterField(
            model_name="comparable",
            name="completeness",
            field=models.PositiveSmallIntegerField(
                blank=True, null=True, validators=[django.core.validators.MaxValueValidator(100, "From 0 to 100.")]
            ),
        ),
        migrations.AlterField(
            model_name="comparable",
            name="grade",
            field=models.CharField(max_length=10),
        ),
    ]
