"""Media an installation is made from: written from the images that are kept, read back, and compared with them."""

import hashlib
from collections.abc import Sequence
from pathlib import PurePath

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from core.workshop.storage.media import closest
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people.models import Person
from stations.people.permissions import require
from stations.workshop import attempts, knowledge, recipe_run
from stations.workshop.models import Job, MediumRead

MOST_FILES = 24


@transaction.atomic
def compare(person: Person, job: Job, index: int, files: Sequence[UploadedFile]) -> list[MediumRead]:
    """What was read back from each medium, against the image it is nearest to. Nothing but the outcome is kept."""
    require(person, "work through a recipe")
    job = lock_row(Job.objects.select_related("unit"), job, job.unit)
    now = recipe_run.in_hand(recipe_run.steps_of_job(job))
    if not job.is_open or now is None or now.index != index:
        raise Refused("Another step is in hand now.")
    if not files:
        raise Refused("Choose what was read back.", "read")
    if len(files) > MOST_FILES or any((file.size or 0) > knowledge.MOST_BYTES for file in files):
        raise Refused(f"{MOST_FILES} files at once, each of 16 MB at most.", "read")
    kept = [row for row in attempts.images_for(now.step.instruction) if knowledge.path_of(row.sha256).exists()]
    if not kept:
        raise Refused("No image of this is kept, so there is nothing to compare with.", "read")
    images = [knowledge.path_of(row.sha256).read_bytes() for row in kept]
    found = []
    for file in files:
        data = file.read()
        nearest = closest(images, data)
        if nearest is None:
            continue
        number, unlike = nearest
        found.append(
            MediumRead.objects.create(
                job=job,
                index=index,
                image=kept[number],
                name=PurePath(str(file.name).replace("\\", "/")).name[:120] or "medium",
                sha256=hashlib.sha256(data).hexdigest(),
                equal=unlike.equal,
                words=unlike.words,
                when=clock.now(),
                who=person,
            )
        )
    return found
