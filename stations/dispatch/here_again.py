"""A thing that its buyer sent back, while it is here and its buyer’s: received, mended if that was agreed, and sent to
its buyer again where it is not taken back."""

from datetime import date
from decimal import Decimal

from django.db import transaction
from django.db.models import Max, Sum

from core.money import ZERO
from stations.common.happened import day_said, moment_on
from stations.common.locking import lock_row
from stations.common.refusals import Refused, reason, within
from stations.dispatch.models import Return
from stations.ledger.models import Account, EntryKind, LedgerEntry
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.selling.payments import hold
from stations.units import busy, stages
from stations.units.models import Unit

UNIT = HistoryEntry.Subject.UNIT
ON_THE_SHELF = "returns"
# What mending it takes; what a sale comes to is asked of the sale.
_MENDING = (EntryKind.PART_ISSUED, EntryKind.PART_RETURNED, EntryKind.PART_RECOVERED, EntryKind.LABOUR)


def open_return(back: Return) -> Return:
    """It, locked with its sale; raises Refused where it is settled already."""
    hold(back.sale)
    back = lock_row(Return.objects.select_related("sale__unit", "sale__channel"), back)
    if not back.is_open:
        raise Refused("It is settled already.")
    return back


@transaction.atomic
def receive(person: Person, back: Return, on: date | None = None) -> None:
    """The thing is here again, since today or a day before."""
    require(person, "take a return in")
    back = open_return(back)
    if back.received_at:
        raise Refused("It was received already.")
    when = moment_on(on, back.asked_at, "asked for")
    Return.objects.filter(pk=back.pk).update(received_at=when)
    Unit.objects.filter(pk=back.sale.unit_id).update(place=ON_THE_SHELF, came_back_at=when)
    history.record(person, "dispatch.receive", UNIT, back.sale.unit_id, f"Came back from its buyer{day_said(when)}")
    stages.refresh(back.sale.unit)


@transaction.atomic
def not_received(person: Person, back: Return, why: str) -> None:
    """It is with its buyer still: another one came."""
    require(person, "take a return in")
    back, why = _here(back), reason(why)
    if mending_of(back):
        raise Refused("Parts or work were booked on it since it came: it was here.")
    busy.refuse(back.sale.unit, "It is here")
    Return.objects.filter(pk=back.pk).update(received_at=None)
    before = Return.objects.filter(sale__unit=back.sale.unit_id).aggregate(at=Max("received_at"))["at"]
    Unit.objects.filter(pk=back.sale.unit_id).update(came_back_at=before)
    history.record(person, "dispatch.not_received", UNIT, back.sale.unit_id, f"Not here after all: {why}", why=why)
    stages.refresh(back.sale.unit)


@transaction.atomic
def went_back(person: Person, back: Return, by: str, on: date | None = None) -> None:
    """It was sent to its buyer again, or fetched, today or a day before; `by` says how."""
    require(person, "take a return in")
    back, by = _here(back), within(by.strip(), 120, "by")
    unit = back.sale.unit
    busy.refuse(unit, "It can’t go back")
    if unit.unsafe:
        raise Refused(f"It is not safe: {unit.stage_reason}. Make it safe first.")
    when = moment_on(on, back.received_at or back.asked_at, "received")
    Return.objects.filter(pk=back.pk).update(went_back_at=when, went_back_by=by)
    # Who fetched it is wiped one day.
    history.record(person, "dispatch.went_back", UNIT, unit.pk, f"Went back to its buyer{day_said(when)}")
    stages.refresh(unit)


@transaction.atomic
def still_here(person: Person, back: Return, why: str) -> None:
    """It did not go back: it is here."""
    require(person, "take a return in")
    back, why = open_return(back), reason(why)
    if back.went_back_at is None:
        raise Refused("Nobody said that it went back.")
    Return.objects.filter(pk=back.pk).update(went_back_at=None, went_back_by="")
    history.record(person, "dispatch.still_here", UNIT, back.sale.unit_id, f"Here after all: {why}", why=why)
    stages.refresh(back.sale.unit)


def mending_of(back: Return) -> Decimal:
    """What was booked on it for parts and labour since it was received; 0 where it was not. One query."""
    if back.received_at is None:
        return ZERO
    booked = LedgerEntry.objects.filter(account=Account.UNIT, account_id=back.sale.unit_id, kind__in=_MENDING)
    return booked.filter(posting__when__gte=back.received_at).aggregate(sum=Sum("amount"))["sum"] or ZERO


def _here(back: Return) -> Return:
    back = open_return(back)
    if back.received_at is None:
        raise Refused("It is not here yet: receive it first.")
    if back.went_back_at:
        raise Refused("It went back to its buyer already.")
    return back
