"""Notes and pictures at a step of a run: kept at once, whatever comes of the step."""

from django.db import transaction

from stations.bench import services
from stations.bench.models import StepNote, TestRun
from stations.common import clock
from stations.common.refusals import Refused, within
from stations.people.models import Person
from stations.people.permissions import require
from stations.units import photos, sounds, stages
from stations.units.picture_files import BadPicture


def notes_of(run: TestRun, code: str) -> list[StepNote]:
    """The notes at a step, oldest first: one query."""
    return list(run.notes.filter(code=code).select_related("who", "photo", "clip"))


@transaction.atomic
def add(person: Person, run: TestRun, code: str, words: str, picture=None, sound=None) -> StepNote:
    """Keep a note at a step of an open run: words, a picture file, a sound, or several of them."""
    require(person, "write at the bench")
    if code not in {check.code for check in services.plan_of(run)}:
        raise Refused("This run has no such step.")
    if not words and not picture and not sound:
        raise Refused("Write a word, take a picture, or record a sound.", "words")
    within(words, 300)
    clip = sounds.keep(person, run.unit, sound, words) if sound else None
    photo = None
    if picture:
        try:
            photo, _ = photos.keep_photo(run.unit, picture)
        except BadPicture as problem:
            raise Refused(f"The picture was not taken: {problem}.", "words") from problem
        stages.refresh(run.unit)
    return StepNote.objects.create(
        run=run, code=code, words=words, photo=photo, clip=clip, when=clock.now(), who=person
    )
