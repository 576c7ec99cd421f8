from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("selling", "0014_what_was_promised")]

    operations = [
        migrations.AddField(
            model_name="unitgrade", name="evidence", field=models.JSONField(default=dict, editable=False)
        ),
    ]
