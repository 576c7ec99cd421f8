"""What settles a unit: parked, written off, given back, its data cleared. Each says first what will happen, is refused
while something speaks against it, and can be taken back by a later entry."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date

from django.db import transaction
from django.db.models import F

from core.buying.odds import LineOutcome
from core.flow.stage import GONE, Stage
from stations.buying.models import TurnedOut
from stations.buying.plans import record_outcome
from stations.common import clock
from stations.common.happened import day_said, moment_on
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.intake import receiving
from stations.ledger.models import Account, EntryKind
from stations.ledger.selectors import balance
from stations.ledger.services import Leg, post, reverse_posting
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import may, require, who_may
from stations.units import as_it_is, busy, stages
from stations.units.anew import receive_anew
from stations.units.costs import refuse_not_shared
from stations.units.models import Unit
from stations.units.tried import was_tried

UNIT = HistoryEntry.Subject.UNIT
OUT_OF_HAND = GONE | {Stage.LISTED}
HOW = {
    "clear": "clear: overwritten, and read back",
    "purge": "purge: by the drive’s own erase, or degaussed",
    "destroy": "destroy: shredded, drilled or melted",
}


@dataclass(frozen=True)
class Act:
    """One way to settle a unit: what it is called, what will happen, who may, and what speaks against it now."""

    code: str
    title: str
    verb: str
    consequences: Callable[[Unit], list[str]]
    against: Callable[[Unit], list[str]]
    possible: Callable[[Unit], bool]
    grave: bool = False

    @property
    def permission(self) -> str:
        """Its line in the table of permissions."""
        return self.title.lower()

    @property
    def roles(self) -> list[str]:
        """Whom it is for."""
        return who_may(self.permission)

    def allowed(self, person: Person) -> bool:
        return may(person, self.permission)


def _locked(unit: Unit) -> Unit:
    return lock_row(Unit.objects.select_related("lot", "line__lot", "model"), unit)


def _refuse(act: Act, unit: Unit) -> None:
    if against := act.against(unit):
        raise Refused(f"Not now: {'; '.join(against)}.")


def _go(person: Person, code: str, unit: Unit) -> Unit:
    """The unit, locked, once the act is allowed and nothing speaks against it."""
    act = ACTS[code]
    require(person, act.permission)
    unit = _locked(unit)
    if not act.possible(unit):
        raise Refused(f"{unit.tag} is {unit.get_stage_display()}: that can’t be done now.")
    _refuse(act, unit)
    return unit


@transaction.atomic
def park(person: Person, unit: Unit, reason: str) -> None:
    """Put the unit aside with a reason."""
    require(person, "park a unit")
    if not reason:
        raise Refused("Say why it is put aside.", "reason")
    unit = _go(person, "park", unit)
    Unit.objects.filter(pk=unit.pk).update(parked=within(reason, 120, "reason"))
    history.record(person, "intake.park", UNIT, unit.pk, f"Parked: {reason}", reason=reason)
    stages.refresh(unit)


@transaction.atomic
def take_up(person: Person, unit: Unit) -> None:
    """Take a parked unit up again."""
    require(person, "take a unit up again")
    if Unit.objects.filter(pk=unit.pk).exclude(parked="").update(parked=""):
        history.record(person, "intake.take_up", UNIT, unit.pk, "Taken up again")
    stages.refresh(unit)


@transaction.atomic
def write_off(person: Person, unit: Unit, reason: str, on: date | None = None) -> None:
    """Scrap the unit, today or on a day before: what it carries becomes a loss of its lot, with the reason."""
    require(person, "write a unit off")
    if not reason:
        raise Refused("Say why: the reason stays in the record.", "reason")
    unit = _go(person, "write-off", unit)
    refuse_not_shared(unit)
    when, cost = moment_on(on, unit.lot.bought_on, "bought"), balance(Account.UNIT, unit.pk)
    legs = [
        Leg(Account.UNIT, unit.pk, EntryKind.WRITE_OFF, -cost, unit.lot_id),
        Leg(Account.LOSS, unit.pk, EntryKind.WRITE_OFF, cost, unit.lot_id),
    ]
    posting = post(person, f"{unit.tag} written off: {reason}", legs, clock.day_of(when))
    Unit.objects.filter(pk=unit.pk).update(scrapped_at=when, scrap_posting=posting)
    record_outcome(unit.line, unit.number, LineOutcome.WORTHLESS, tested=was_tried(unit))
    history.record(person, "intake.write_off", UNIT, unit.pk, f"Written off: {reason}{day_said(when)}", reason=reason)
    stages.refresh(unit)


@transaction.atomic
def take_back_write_off(person: Person, unit: Unit, reason: str) -> None:
    """It is worth something after all: the loss is reversed by a later entry, and the unit is back."""
    require(person, "take a write-off back")
    if not reason:
        raise Refused("Say why: the reason stays in the record.", "reason")
    unit = _go(person, "take-back-write-off", unit)
    if unit.scrap_posting:
        reverse_posting(person, unit.scrap_posting, reason)
    Unit.objects.filter(pk=unit.pk).update(scrapped_at=None, scrap_posting=None)
    written_off = TurnedOut.objects.filter(unit_number=unit.number, outcome=LineOutcome.WORTHLESS.value)
    written_off.filter(found__in=["", LineOutcome.WORTHLESS.value]).delete()
    written_off.update(outcome=F("found"))
    history.record(person, "intake.take_back_write_off", UNIT, unit.pk, f"Write-off taken back: {reason}")
    stages.refresh(unit)


@transaction.atomic
def give_back(person: Person, unit: Unit, to_whom: str = "", on: date | None = None) -> None:
    """Return a unit that is not ours to its owner, today or on a day before."""
    require(person, "give a unit back")
    unit = _go(person, "give-back", unit)
    when = moment_on(on, unit.lot.bought_on, "bought")
    Unit.objects.filter(pk=unit.pk).update(returned_at=when)
    taken = f", taken by {to_whom}" if to_whom else ""
    history.record(person, "intake.give_back", UNIT, unit.pk, f"Given back to {unit.owner_name}{taken}{day_said(when)}")
    stages.refresh(unit)


@transaction.atomic
def came_back(person: Person, unit: Unit, reason: str, never_left: bool = False, on: date | None = None) -> None:
    """It was given back, and is here again, today or since a day before, as received anew; or it `never_left`, and is
    as it was."""
    require(person, "take a unit back in")
    if not reason:
        raise Refused("Say why it is here again.", "reason")
    unit = _go(person, "came-back", unit)
    words = f"Never left: {reason}"
    if not never_left:
        when = moment_on(on, unit.returned_at or unit.received_at, "given back")
        receive_anew(person, unit, when)
        words = f"Here again: {reason}{day_said(when)}"
    Unit.objects.filter(pk=unit.pk).update(returned_at=None)
    history.record(person, "intake.came_back", UNIT, unit.pk, words)
    stages.refresh(unit)


@transaction.atomic
def record_sanitisation(person: Person, unit: Unit, how: str, verified: str = "", imaged: bool = False) -> None:
    """Record that storage was sanitised, how (NIST SP 800-88: clear, purge or destroy), and how that was verified.

    What is to be imaged first is not cleared before somebody says that the image is kept.
    """
    require(person, "record sanitising")
    if how not in HOW:
        raise Refused("Say how: clear, purge or destroy.", "how")
    if not verified:
        raise Refused("Say how it was verified: what was read back, what is left of it.", "verified")
    if unit.data_keep and not imaged:
        raise Refused("It is to be imaged first. Tick that the image is kept, or say at intake that none is wanted.")
    unit = _go(person, "sanitise", unit)
    Unit.objects.filter(pk=unit.pk).update(data_cleared_at=clock.now())
    history.record(
        person,
        "intake.record_sanitisation",
        UNIT,
        unit.pk,
        f"Storage sanitised: {how}; verified: {verified}",
        how=how,
    )
    stages.refresh(unit)


@transaction.atomic
def data_still_there(person: Person, unit: Unit, reason: str) -> None:
    """The sanitising does not hold: data were found, or the wrong storage was done."""
    require(person, "record sanitising")
    if not reason:
        raise Refused("Say what was found.", "reason")
    unit = _go(person, "data-still-there", unit)
    Unit.objects.filter(pk=unit.pk).update(data_cleared_at=None)
    history.record(person, "intake.data_still_there", UNIT, unit.pk, f"Sanitising does not hold: {reason}")
    stages.refresh(unit)


def _work(unit: Unit) -> list[str]:
    return busy.what(unit)


def _no_scrap(unit: Unit) -> list[str]:
    owner = [f"it belongs to {unit.owner_name}"] if unit.holding != Unit.Holding.OWNED else []
    return [*owner, *_work(unit)]


def _no_return(unit: Unit) -> list[str]:
    hold = [f"safety hold: {unit.stage_reason}"] if unit.state == "hold" else []
    return [*hold, *_work(unit)]


def _no_untaking(unit: Unit) -> list[str]:
    return ["it was taken apart: its parts carry its cost"] if unit.taken_apart_at else []


def _what_it_carries(unit: Unit) -> str:
    return f"{balance(Account.UNIT, unit.pk):.2f}"


# Every act, by the code in its address.
ACTS: dict[str, Act] = {
    act.code: act
    for act in (
        Act(
            "park",
            "Park a unit",
            "Park it",
            lambda unit: ["It stands aside, waiting, until somebody takes it up again.", "Nothing else changes."],
            lambda unit: [],
            lambda unit: unit.stage not in OUT_OF_HAND and not unit.parked,
        ),
        Act(
            "un-receive",
            "Take back what was received",
            "It was received by mistake",
            lambda unit: [
                f"{unit.tag} is no unit any more; its piece of {unit.lot.code} is still to be received.",
                "What it carries goes back to its line. Its tag is not given out again: take the label off.",
            ],
            receiving.rests_on,
            lambda unit: unit.assessed_at is None and unit.stage not in OUT_OF_HAND,
        ),
        Act(
            "write-off",
            "Write a unit off",
            "Write it off",
            lambda unit: [
                f"The {_what_it_carries(unit)} it carries becomes a loss of {unit.lot.code}.",
                "It counts as worthless for the odds of its seller’s claim.",
                "It leaves the floor. An owner can take this back by a later entry.",
                "Cells, tubes and boards go where your local rules send them.",
            ],
            _no_scrap,
            lambda unit: unit.stage not in OUT_OF_HAND,
            grave=True,
        ),
        Act(
            "take-back-write-off",
            "Take a write-off back",
            "Take the write-off back",
            lambda unit: [
                f"The loss is reversed by an entry of its own, and {unit.tag} carries its cost again.",
                "It stands where it stood before.",
            ],
            _no_untaking,
            lambda unit: unit.scrapped_at is not None,
        ),
        Act(
            "give-back",
            "Give a unit back",
            "Give it back",
            lambda unit: [
                f"It leaves the house, to {unit.owner_name}.",
                "What was tested and done stands in its report. It can be taken in again by a later entry.",
            ],
            _no_return,
            lambda unit: unit.holding != Unit.Holding.OWNED and unit.stage not in OUT_OF_HAND,
        ),
        Act(
            "came-back",
            "Take a unit back in",
            "It is here again",
            lambda unit: [
                "It is as received anew: looked over, gone through, discharged and tested again; its story stays.",
                "If it never left, it stands where it stood before it was given back.",
            ],
            lambda unit: [],
            lambda unit: unit.returned_at is not None,
        ),
        Act(
            "sanitise",
            "Record sanitising",
            "Record it",
            lambda unit: [
                "Data no longer block the listing of this unit.",
                "Storage that is fitted later has to be sanitised again.",
                "What is gone is gone: this is only written down, after it was done and checked.",
            ],
            lambda unit: [*([] if unit.assessed_at else ["intake is not finished"]), *busy.what(unit, "run")],
            lambda unit: unit.stage not in OUT_OF_HAND - {"listed"} and bool(as_it_is.data_left([unit])[unit.pk]),
        ),
        Act(
            "data-still-there",
            "Say that sanitising does not hold",
            "It does not hold",
            lambda unit: ["Data block the listing again, at once; what is on offer is held."],
            lambda unit: [],
            lambda unit: unit.data_cleared_at is not None and unit.stage not in {"sent", "closed", "returned"},
        ),
    )
}


def offered(person: Person, unit: Unit) -> list[tuple[Act, bool]]:
    """What can be settled on this unit now, and whether this person may."""
    return [(act, act.allowed(person)) for act in ACTS.values() if act.possible(unit)]
