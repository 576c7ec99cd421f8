"""What was tried at the steps of an installation, and which variant worked before on machines of a model."""

from collections.abc import Sequence
from datetime import datetime

from core.workshop.knowledge import KnowledgeKind
from core.workshop.storage.attempts import Attempt, Variant, variants, what_of
from core.workshop.storage.install import INSTALL, WRITE
from stations.common import clock
from stations.people.models import Person
from stations.units.models import Unit
from stations.workshop.models import InstallAttempt, Job, Knowledge, MediumRead, Sanitising
from stations.workshop.sanitising import withdrawn

MOST_ATTEMPTS = 400
MOST_IMAGES = 12


def worked(person: Person, job: Job, index: int, instruction: str) -> None:
    """A step that installs something is done: the variant it was done with worked."""
    if instruction.startswith(INSTALL) or InstallAttempt.objects.filter(job=job, index=index).exists():
        note(person, job, index, what_of(instruction), "", worked=True)
    Job.objects.filter(pk=job.pk).update(varied="")


def taken_back(job: Job, index: int) -> None:
    """A step is to do again: the go that was said to have worked did not count."""
    last = InstallAttempt.objects.filter(job=job, index=index, worked=True).last()
    if last is not None:
        Job.objects.filter(pk=job.pk).update(varied=last.varied)
        last.delete()


def note(person: Person, job: Job, index: int, what: str, words: str, worked: bool) -> InstallAttempt:
    """One go at a step, with what was said to be varied at it."""
    varied = Job.objects.values_list("varied", flat=True).get(pk=job.pk)
    return InstallAttempt.objects.create(
        job=job,
        model_id=job.unit.model_id,
        index=index,
        what=what,
        varied=varied,
        words=words,
        worked=worked,
        when=clock.now(),
        who=person,
    )


def variants_at(job: Job, instruction: str) -> list[Variant]:
    """What worked on machines of this model before, the likeliest first; nothing where no model is known: one query."""
    if job.unit.model_id is None:
        return []
    rows = InstallAttempt.objects.filter(what=what_of(instruction), model=job.unit.model_id)
    return variants(Attempt(varied, good) for varied, good in rows.values_list("varied", "worked")[:MOST_ATTEMPTS])


def record_on(model_id: int | None) -> dict[str, Variant]:
    """By system, how its installations went on machines of a model: one query."""
    if model_id is None:
        return {}
    found: dict[str, list[int]] = {}
    rows = InstallAttempt.objects.filter(model=model_id, what__startswith=INSTALL)
    for what, good in rows.values_list("what", "worked")[: 10 * MOST_ATTEMPTS]:
        found.setdefault(what.removeprefix(INSTALL), [0, 0])[not good] += 1
    return {name: Variant("", *counts) for name, counts in found.items()}


def images_for(instruction: str) -> list[Knowledge]:
    """Images the shop keeps of what a step installs or writes, by its name, with edition and checksum: one query, none
    for a step that does neither."""
    if not instruction.startswith((INSTALL, WRITE)):
        return []
    name = what_of(instruction).removeprefix(INSTALL).removeprefix(WRITE)
    return list(
        Knowledge.objects.filter(kind=KnowledgeKind.IMAGE, title__icontains=name).order_by("title")[:MOST_IMAGES]
    )


def read_back(job: Job, index: int) -> list[MediumRead]:
    """How each medium of a step read back the last time it was compared: one query."""
    rows = MediumRead.objects.filter(job=job, index=index).select_related("image", "who")
    return list({(row.image_id, row.name): row for row in rows}.values())


def differing(job: Job, index: int) -> list[str]:
    """Media of a step that were not equal when they were last compared, in words: one query."""
    return [str(row) for row in read_back(job, index) if not row.equal]


def installed_in(units: Sequence[Unit]) -> dict[int, list[str]]:
    """What was installed on each unit and was not sanitised since: three queries."""
    done = list(Sanitising.objects.filter(unit__in=units))
    void = withdrawn(done)
    wiped: dict[int | None, datetime] = {}
    for one in done:
        if one.pk not in void:
            wiped[one.unit_id] = max(one.when, wiped.get(one.unit_id, one.when))
    # A dict, since each is told once and the first comes first.
    found: dict[int, dict[str, None]] = {unit.pk: {} for unit in units}
    rows = InstallAttempt.objects.filter(job__unit__in=units, job__done_at__isnull=False, worked=True)
    rows = rows.filter(what__startswith=INSTALL)
    for unit_id, what, when in rows.values_list("job__unit_id", "what", "when"):
        if unit_id not in wiped or when > wiped[unit_id]:
            found[unit_id][what.removeprefix(INSTALL)] = None
    return {unit_id: list(names) for unit_id, names in found.items()}
