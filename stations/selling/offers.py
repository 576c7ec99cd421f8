"""Offers and reservations: taken down as they come, answered by what waiting is worth, held until an end."""

from datetime import datetime, timedelta
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.queue.services import put
from stations.selling import inbox, telling
from stations.selling.holding import end_reservation, hold, reserved
from stations.selling.models import Listing, Offer, Reserved
from stations.selling.placing import settle
from stations.units.models import Unit

UNIT = HistoryEntry.Subject.UNIT
# An offer that was taken is held for so long, unless another end is said.
HELD_FOR = timedelta(days=7)
LONGEST = timedelta(days=90)


@transaction.atomic
def take_down(person: Person, unit: Unit, amount: Decimal, buyer: str, until: datetime | None = None) -> Offer:
    """Write down an offer for something that is on offer."""
    require(person, "answer an offer")
    listing = _listing(unit)
    if amount <= 0:
        raise Refused("An offer is for more than 0.", "amount")
    if listing.asking is not None and amount > 10 * listing.asking:
        raise Refused(
            f"That is more than ten times the {listing.asking} asked. Is the point in the right place?", "amount"
        )
    if until is not None and until <= clock.now():
        raise Refused("That moment is past.", "until")
    offer = Offer.objects.create(
        unit=unit, amount=amount, buyer=within(buyer, 120, "buyer"), made_at=clock.now(), until=until
    )
    inbox.compare(offer, listing, inbox.waiting_now(unit, listing))
    history.record(person, "selling.take_down", UNIT, unit.pk, f"{amount} was offered by {buyer}")
    return offer


@transaction.atomic
def respond(person: Person, offer: Offer, status: Offer.Status, counter: Decimal | None = None) -> None:
    """Take it (it is reserved for the buyer then), ask for more, or decline; once."""
    require(person, "answer an offer")
    unit = lock_row(Unit.objects.all(), offer.unit)
    offer = lock_row(Offer.objects.all(), offer)
    if offer.status != Offer.Status.OPEN:
        raise Refused(f"It was answered before: {offer.get_status_display()}.")
    # What is gone can still be declined.
    listing = _listing(unit) if status != Offer.Status.DECLINED else Listing.objects.filter(unit=unit).first()
    if status == Offer.Status.TAKEN:
        if offer.until is not None and offer.until <= clock.now():
            raise Refused("The offer has run out. Ask whether it still stands.")
        reserve(person, unit, offer.buyer, clock.now() + HELD_FOR, offer.amount)
    elif status == Offer.Status.COUNTERED and listing:
        if counter is None or counter <= offer.amount:
            raise Refused(f"Ask for more than the {offer.amount} that was offered.", "counter")
        if listing.asking is not None and counter > listing.asking:
            raise Refused(f"Anybody can have it for {listing.asking}.", "counter")
    waiting = inbox.waiting_now(unit, listing) if listing and listing.is_live else None
    Offer.objects.filter(pk=offer.pk).update(
        status=status,
        counter=counter if status == Offer.Status.COUNTERED else None,
        waiting=waiting.waiting if waiting else None,
        answered_at=clock.now(),
        answered_by=person,
    )
    instead = f" instead of {counter}" if status == Offer.Status.COUNTERED else ""
    words = f"Offer of {offer.amount} by {offer.buyer}: {Offer.Status(status).label}{instead}"
    history.record(person, "selling.respond", UNIT, unit.pk, words)
    if offer.remote:
        put(telling.ANSWER, {"kind": "offer", "pk": offer.pk})


@transaction.atomic
def reserve(person: Person, unit: Unit, buyer: str, until: datetime, price: Decimal | None = None) -> Reserved:
    """Hold it for somebody until a moment. Refused while it is held for somebody else."""
    require(person, "reserve a unit")
    unit, now = lock_row(Unit.objects.all(), unit), clock.now()
    _listing(unit)
    if not buyer:
        raise Refused("For whom?", "buyer")
    if not now < until <= now + LONGEST:
        raise Refused(f"Until a moment from now on, {LONGEST.days} days at most.", "until")
    if holds := reserved(unit):
        raise Refused(f"It is held for {holds.buyer} until {_when(holds.until)}.", "buyer")
    held = hold(person, unit, within(buyer, 120, "buyer"), until, price)
    settle(unit)
    history.record(person, "selling.reserve", UNIT, unit.pk, f"Held for {buyer} until {_when(until)}")
    return held


@transaction.atomic
def let_go(person: Person, unit: Unit, words: str) -> None:
    """End a reservation before its time."""
    require(person, "reserve a unit")
    unit = lock_row(Unit.objects.all(), unit)
    words = within(words, 160, "words")
    if not words:
        raise Refused("Say why it is let go.", "words")
    held = reserved(unit)
    if held is None:
        raise Refused("It is held for nobody.")
    end_reservation(held, words)
    settle(unit)
    history.record(person, "selling.let_go", UNIT, unit.pk, f"No longer held for {held.buyer}: {words}")


def end_those_that_ran_out() -> None:
    """Reservations whose time is over end, and the unit is on offer again where it was; a few at a time."""
    over = Reserved.objects.filter(open_for__isnull=False, until__lte=clock.now()).order_by("until")
    for held in over.select_related("unit")[:20]:
        with transaction.atomic():
            unit = lock_row(Unit.objects.all(), held.unit)
            if Reserved.objects.filter(pk=held.pk, open_for__isnull=False).exists():
                end_reservation(held, "its time ran out")
                settle(unit)


def _listing(unit: Unit) -> Listing:
    listing = Listing.objects.select_related("channel").filter(unit=unit).first()
    if listing is None or not listing.is_live:
        raise Refused("It is not on offer.")
    return listing


def _when(moment: datetime) -> str:
    return f"{timezone.localtime(moment):%d %b, %H:%M}"
