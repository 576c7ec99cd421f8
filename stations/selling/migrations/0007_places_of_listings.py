"""What is on offer already stands on the channel it was priced for, and in the public shop as before."""

import hashlib
import json
import re

from django.db import migrations
from django.utils import timezone


def place(apps, schema_editor):
    Listing, Grade = apps.get_model("selling", "Listing"), apps.get_model("selling", "UnitGrade")
    Placement, Word = apps.get_model("selling", "Placement"), apps.get_model("selling", "ListingWord")
    for listing in Listing.objects.filter(status="live").select_related("unit").iterator(chunk_size=500):
        up = {"title": listing.title, "text": listing.text, "asking": str(listing.asking)}
        told = hashlib.sha256(json.dumps(up, sort_keys=True).encode()).hexdigest()
        moving = listing.unit.state == "move"
        Placement.objects.get_or_create(
            unit=listing.unit,
            channel_id=listing.channel_id,
            defaults={
                "wanted": moving,
                "stands": True,
                "turn": 1,
                "confirmed": 1,
                "told": told,
                "changed_at": timezone.now(),
            },
        )
        given = Grade.objects.filter(unit=listing.unit).order_by("-id").first()
        Listing.objects.filter(pk=listing.pk).update(
            on_show=moving, grade=given.grade if given else "", shape=listing.unit.form_factor
        )
        words = {word[:24] for word in re.findall(r"\w+", listing.title.casefold())}
        # Two that the database takes for the same are one.
        Word.objects.bulk_create((Word(listing=listing, word=word) for word in words), ignore_conflicts=True)


class Migration(migrations.Migration):
    dependencies = [("selling", "0006_channels"), ("units", "0008_pull")]

    operations = [migrations.RunPython(place, migrations.RunPython.noop)]
