"""What is posted has the day on which it happened. Of what was posted before nothing else is known than the day on
which it was written."""

from collections import defaultdict

from django.db import migrations, models
from django.db.models import OuterRef, Subquery
from django.utils import timezone

AT_ONCE = 2000


def as_written(apps, schema_editor):
    postings, entries = apps.get_model("ledger", "Posting").objects, apps.get_model("ledger", "LedgerEntry").objects
    of_day = defaultdict(list)
    for pk, when in postings.values_list("pk", "when").iterator(AT_ONCE):
        of_day[timezone.localtime(when).date()].append(pk)
    for day, keys in of_day.items():
        for start in range(0, len(keys), AT_ONCE):
            postings.filter(pk__in=keys[start : start + AT_ONCE]).update(happened_on=day)
    with schema_editor.connection.cursor() as cursor:
        cursor.execute("SET @wendopolis_ledger_unlocked = 1")
        try:
            of = postings.filter(pk=OuterRef("posting")).values("happened_on")
            entries.update(happened_on=Subquery(of))
        finally:
            cursor.execute("SET @wendopolis_ledger_unlocked = NULL")


def as_told(apps, schema_editor):
    postings, entries = apps.get_model("ledger", "Posting").objects, apps.get_model("ledger", "LedgerEntry").objects
    with schema_editor.connection.cursor() as cursor:
        cursor.execute("SET @wendopolis_ledger_unlocked = 1")
        try:
            entries.update(when=Subquery(postings.filter(pk=OuterRef("posting")).values("when")))
        finally:
            cursor.execute("SET @wendopolis_ledger_unlocked = NULL")


class Migration(migrations.Migration):
    dependencies = [("ledger", "0002_append_only")]

    operations = [
        migrations.AddField("posting", "happened_on", models.DateField(null=True)),
        migrations.AddField("ledgerentry", "happened_on", models.DateField(null=True)),
        # Backwards the time stands where it did.
        migrations.AlterField("ledgerentry", "when", models.DateTimeField(null=True)),
        migrations.RunPython(as_written, as_told),
        migrations.AlterField("posting", "happened_on", models.DateField()),
        migrations.AlterField("ledgerentry", "happened_on", models.DateField()),
        migrations.RemoveIndex("ledgerentry", "entry_by_time"),
        migrations.RemoveField("ledgerentry", "when"),
        migrations.AddIndex("ledgerentry", models.Index(fields=["happened_on"], name="entry_by_day")),
    ]
