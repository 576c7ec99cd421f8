"""Capturing in series: whose a unit is, what data it holds, all there at a press, like the last one."""

from collections.abc import Collection
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.db.models import Q, QuerySet

from core.intake.completeness import Presence
from core.intake.condition import FindingKind
from core.machine.approach import Approach
from stations.catalogue.one_model import UNSAID
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, shortened
from stations.intake.services import nobody_said
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units import findings, stages
from stations.units.models import Content, OwnersTerms, Unit

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
)


@dataclass(frozen=True)
class Ownership:
    """Whose a unit is, what was agreed, and our commission in percent, None where nobody said; for what is ours the
    rest is empty."""

    holding: str = Unit.Holding.OWNED.value
    owner_name: str = ""
    agreement: str = ""
    refused_work: str = ""
    commission_percent: Decimal | None = None


@dataclass(frozen=True)
class DataOnBoard:
    """Whether there is storage that keeps data (None: nobody looked), what, and whether it is to be imaged first."""

    data_on_board: bool | None
    data_keep: bool = False
    data_note: str = ""


@transaction.atomic
def set_ownership(person: Person, unit: Unit, owned: Ownership) -> None:
    """Record whose it is and what was agreed. What is not ours names its owner; custody allows conserving only."""
    require(person, "record whose it is")
    unit = lock_row(Unit.objects.select_related("lot"), unit)
    stages.refuse_gone(unit, "whose it was", "holding")
    holding = Unit.Holding(owned.holding)
    if unit.lot.in_custody and holding is not Unit.Holding.CUSTODY:
        raise Refused("This lot is in custody: so are its units.", "holding")
    if holding is Unit.Holding.OWNED:
        owned = Ownership()
    elif not owned.owner_name:
        raise Refused("Whose is it? Type the owner’s name.", "owner_name")
    if holding is Unit.Holding.CONSIGNED and owned.commission_percent is None:
        raise Refused("Say how much it is; 0 where there is none.", "commission_percent")
    if holding is Unit.Holding.CUSTODY and unit.approach and unit.approach != Approach.CONSERVE:
        raise Refused("In custody only conserving work may be done: change the approach first.", "holding")
    if holding is not Unit.Holding.OWNED and unit.approach == Approach.DONOR:
        raise Refused(
            "It is to be taken for parts, which only what is ours may be: change the approach first.", "holding"
        )
    Unit.objects.filter(pk=unit.pk).update(holding=owned.holding, owner_name=owned.owner_name)
    if holding is Unit.Holding.OWNED:
        OwnersTerms.objects.filter(unit=unit).delete()
    else:
        agreed = {name: getattr(owned, name) for name in ("agreement", "refused_work")}
        agreed["commission_percent"] = owned.commission_percent or Decimal(0)
        terms = OwnersTerms.objects.filter(unit=unit).first() or OwnersTerms(unit=unit)
        named = f"Agreed with {owned.owner_name}"
        history.changed(person, "intake.set_ownership", UNIT, unit.pk, named, terms, agreed)
        OwnersTerms.objects.update_or_create(unit=unit, defaults=agreed)
    words = f"{holding.label}{': ' + owned.owner_name if owned.owner_name else ''}"
    if (unit.holding, unit.owner_name) != (owned.holding, owned.owner_name):
        history.record(person, "intake.set_ownership", UNIT, unit.pk, f"Whose it is: {words}")
    stages.refresh(unit)


@transaction.atomic
def note_data(person: Person, unit: Unit, found: DataOnBoard) -> None:
    """Record what storage there is and what may be on it. It blocks the listing until it is sanitised."""
    require(person, "record what data it may hold")
    unit = lock_row(Unit.objects.all(), unit)
    history.changed(person, "intake.note_data", UNIT, unit.pk, "Data on board", unit, vars(found))
    Unit.objects.filter(pk=unit.pk).update(**vars(found))
    stages.refresh(unit)


@transaction.atomic
def mark_all_present(person: Person, unit: Unit, seen: Collection[int]) -> int:
    """Of the things on its list that were seen (by their keys), all that nobody has looked for yet are there: what came
    on it since is still to be looked for. Answers how many that were."""
    require(person, "tick off contents")
    there = unit.contents.filter(pk__in=seen, presence=Presence.UNSEEN)
    if names := list(there.values_list("name", flat=True)):
        there.update(presence=Presence.PRESENT)
        words = shortened(f"There: {', '.join(names)}", 200)
        history.record(person, "intake.mark_all_present", UNIT, unit.pk, words)
    stages.refresh(unit)
    return len(names)


@transaction.atomic
def quick_finding(person: Person, unit: Unit, face: str, kind: str, x: float = 0.5, y: float = 0.5):
    """A finding in two presses: the face and the kind. The rest is usual and can be put right after."""
    if kind not in set(FindingKind):
        raise Refused("Say what kind of finding it is.")
    if not (0 <= x <= 1 and 0 <= y <= 1):
        raise Refused("That place is off the face.")
    return findings.add_finding(person, unit, findings.Observation(face, kind, x, y, severity=2, extent_percent=5))


def _like(unit: Unit) -> QuerySet[Unit]:
    """Those of its line or its model that were identified, the last first; of its model alone once somebody said which
    it is."""
    of_line, of_model = Q(line=unit.line_id), Q(model=unit.model_id)
    same = (of_model if unit.identified_at else of_line | of_model) if unit.model_id else of_line
    found = Unit.objects.filter(same, identified_at__isnull=False).exclude(pk=unit.pk)
    return found.order_by("-identified_at", "-number")


def last_like(unit: Unit) -> Unit | None:
    """The one identified last, of its line before those of its model."""
    return _like(unit).filter(line=unit.line_id).first() or _like(unit).first()


def _in_common(unit: Unit, other: Unit) -> dict[str, Any]:
    """What was said of the other and nobody said otherwise of this one. Where it stands is said while it is new; that
    nothing in it keeps data is seen in each by itself."""
    names = [name for name in IN_COMMON if getattr(other, name) not in UNSAID and nobody_said(unit, name)]
    if other.place and unit.identified_at is None:
        names.append("place")
    if other.data_on_board:
        names += ["data_on_board", "data_note"] if unit.data_on_board is None else []
    return {name: getattr(other, name) for name in names}


@transaction.atomic
def copy_from_previous(person: Person, unit: Unit, number: int | None = None) -> Unit:
    """Take over what like machines have in common, what came with it, and the approach, from the unit of that number,
    or the last there is; what was recorded of this one stays. Answers which it was like."""
    require(person, "identify a unit")
    other = _like(unit).filter(number=number).first() if number else last_like(unit)
    if other is None:
        raise Refused("There is none like it yet. Record this one; the next can be like it.")
    unit = lock_row(Unit.objects.select_related("model", "line"), unit)
    changes = _in_common(unit, other)
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
