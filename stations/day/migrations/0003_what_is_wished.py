from django.db import migrations, models
from django.db.models import OuterRef, Subquery


def called(apps, schema_editor):
    """A wish is called like the task it was made at."""
    tasks = apps.get_model("day", "PlannedTask").objects.filter(
        plan__day=OuterRef("day"), unit=OuterRef("unit"), code=OuterRef("code")
    )
    for wish in apps.get_model("day", "Wish").objects.annotate(
        called=Subquery(tasks.order_by("-plan").values("title")[:1])
    ):
        wish.title = wish.called or ""
        wish.save(update_fields=["title"])


class Migration(migrations.Migration):
    dependencies = [
        ("day", "0002_beside"),
    ]

    operations = [
        migrations.AddField(
            model_name="wish",
            name="title",
            field=models.CharField(blank=True, default="", max_length=120),
            preserve_default=False,
        ),
        migrations.RunPython(called, migrations.RunPython.noop),
    ]
