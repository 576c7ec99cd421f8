"""Capturing in series: whose a unit is, what data it holds, all there at a press, like the last one."""

from django.db import transaction

from core.intake.completeness import Presence
from core.intake.condition import FindingKind
from core.machine.approach import Approach
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units import findings, stages
from stations.units.models import Content, Unit

UNIT = HistoryEntry.Subject.UNIT
# What twenty like machines of one line have in common; the serial and the findings are each one's own.
IN_COMMON = (
    "model",
    "title",
    "form_factor",
    "mains",
    "mains_variant",
    "adapter_volts",
    "adapter_amps",
    "adapter_polarity",
    "supply",
    "battery",
    "picture_tube",
    "drives",
    "keyboard",
    "place",
    "data_on_board",
    "data_note",
)


@transaction.atomic
def set_ownership(person: Person, unit: Unit, data: dict) -> None:
    """Record whose it is and what was agreed. What is not ours names its owner; custody allows conserving only."""
    require(person, "record whose it is")
    unit = lock_row(Unit.objects.select_related("lot"), unit)
    holding = Unit.Holding(data["holding"])
    if unit.lot.in_custody and holding is not Unit.Holding.CUSTODY:
        raise Refused("This lot is in custody: so are its units.", "holding")
    if holding is Unit.Holding.OWNED:
        data = {**data, "owner_name": "", "agreement": "", "refused_work": "", "commission_percent": 0}
    elif not data["owner_name"]:
        raise Refused("Whose is it? Type the owner’s name.", "owner_name")
    if holding is Unit.Holding.CUSTODY and unit.approach and unit.approach != Approach.CONSERVE:
        raise Refused("In custody only conserving work may be done: change the approach first.", "holding")
    Unit.objects.filter(pk=unit.pk).update(**data)
    words = f"{holding.label}{': ' + data['owner_name'] if data['owner_name'] else ''}"
    if (unit.holding, unit.owner_name) != (data["holding"], data["owner_name"]):
        history.record(person, "intake.set_ownership", UNIT, unit.pk, f"Whose it is: {words}")
    stages.refresh(unit)


@transaction.atomic
def note_data(person: Person, unit: Unit, data: dict) -> None:
    """Record what storage there is and what may be on it. It blocks the listing until it is sanitised."""
    require(person, "record what data it may hold")
    before = unit.data_on_board
    Unit.objects.filter(pk=unit.pk).update(**data)
    if data["data_on_board"] != before:
        history.record(
            person, "intake.note_data", UNIT, unit.pk, "May hold data" if data["data_on_board"] else "Holds no data"
        )
    stages.refresh(unit)


@transaction.atomic
def mark_all_present(person: Person, unit: Unit) -> int:
    """Everything that nobody has looked for yet is there. Answers how many things that were."""
    require(person, "tick off contents")
    count = unit.contents.filter(presence=Presence.UNSEEN).update(presence=Presence.PRESENT)
    if count:
        history.record(person, "intake.mark_all_present", UNIT, unit.pk, "Everything that belongs with it is there")
    stages.refresh(unit)
    return count


@transaction.atomic
def quick_finding(person: Person, unit: Unit, face: str, kind: str, x: float = 0.5, y: float = 0.5):
    """A finding in two presses: the face and the kind. The rest is usual and can be put right after."""
    if kind not in set(FindingKind):
        raise Refused("Say what kind of finding it is.")
    if not (0 <= x <= 1 and 0 <= y <= 1):
        raise Refused("That place is off the face.")
    data = {"face": face, "kind": kind, "x": x, "y": y, "severity": 2, "extent_percent": 5, "words": ""}
    return findings.add_finding(person, unit, data)


def last_like(unit: Unit) -> Unit | None:
    """The unit before this one of the same line that intake is finished with, or of the same model."""
    done = Unit.objects.filter(identified_at__isnull=False).exclude(pk=unit.pk)
    near = done.filter(line=unit.line).order_by("-identified_at", "-number").first()
    if near or unit.model_id is None:
        return near
    return done.filter(model=unit.model).order_by("-identified_at", "-number").first()


@transaction.atomic
def copy_from_previous(person: Person, unit: Unit) -> Unit:
    """Take over what like machines have in common, what came with it, and the approach. Answers which it was like."""
    require(person, "identify a unit")
    other = last_like(unit)
    if other is None:
        raise Refused("There is none like it yet. Record this one; the next can be like it.")
    unit = lock_row(Unit.objects.all(), unit)
    changes = {name: getattr(other, name) for name in IN_COMMON}
    Unit.objects.filter(pk=unit.pk).update(
        **changes, identified_at=unit.identified_at or clock.now(), version=unit.version + 1
    )
    known = {content.name: content for content in unit.contents.all()}
    for content in other.contents.exclude(presence=Presence.EXTRA):
        if content.name not in known:
            Content.objects.create(
                unit=unit,
                name=content.name,
                weight=content.weight,
                presence=content.presence,
                estimate=content.estimate,
            )
        elif known[content.name].presence == Presence.UNSEEN:
            unit.contents.filter(name=content.name).update(presence=content.presence)
    if other.approach and not unit.approach and not (unit.custody and other.approach != Approach.CONSERVE):
        Unit.objects.filter(pk=unit.pk).update(approach=other.approach)
    history.record(person, "intake.copy_from_previous", UNIT, unit.pk, f"Recorded like {other.tag}")
    stages.refresh(unit)
    return other
