"""What speaks against work on a unit, whatever it is: it left the house, or its approach refuses it."""

from dataclasses import dataclass
from typing import Protocol

from core.catalogue.recipes import JobKind
from core.flow.stage import Stage
from core.machine.approach import Approach
from core.workshop import jobs as rules
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people.models import Person
from stations.people.permissions import may
from stations.units.models import Unit


def still_here(unit: Unit) -> None:
    """What left the house gets no parts and no minutes, and gives none back; the unit is held meanwhile."""
    unit = lock_row(Unit.objects.all(), unit)
    if unit.closed_to_work:
        raise Refused(f"{unit.tag} is {unit.get_stage_display()}: nothing is booked on it any more.")


def no_work(unit: Unit) -> str:
    """Why the unit is not worked on now: it left the house, or is on offer; empty where it may be."""
    rests = unit.closed_to_work or unit.stage == Stage.LISTED
    return f"{unit.tag} is {unit.get_stage_display()}: no work is done on it now." if rests else ""


def refuse_no_work(unit: Unit) -> None:
    if why := no_work(unit):
        raise Refused(why)


class OnUnit(Protocol):
    """Work on a unit, as far as its approach may refuse it: a JobKind, and why it is done against the approach."""

    @property
    def kind(self) -> str: ...
    @property
    def reversible(self) -> bool | None: ...
    @property
    def visible_modern(self) -> bool: ...
    @property
    def override_reason(self) -> str: ...


@dataclass(frozen=True)
class Work:
    kind: str
    reversible: bool | None
    visible_modern: bool
    override_reason: str


def check_approach(person: Person, unit: Unit, work: OnUnit, kept_reason: str = "") -> None:
    """What the approach of the unit refuses wants an owner and a reason; what it allows wants none but the one that is
    kept from before, or it would be told as done against it."""
    said = ""
    if unit.approach:
        said = rules.refusal(Approach(unit.approach), JobKind(work.kind), work.reversible, work.visible_modern)
    if not said:
        if work.override_reason and work.override_reason != kept_reason:
            raise Refused("The approach allows this as it is: leave this empty.", "override_reason")
        return
    if not work.override_reason:
        raise Refused(f"{said} An owner may override this with a reason.", "override_reason")
    if not may(person, "override what the approach refuses"):
        raise Refused(f"{said} Only an owner may override it.", "override_reason")
