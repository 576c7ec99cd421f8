"""Several units together at one price: what that saves, offered, sold as one, ended with any of them."""

from collections.abc import Iterable, Sequence
from decimal import Decimal

from django.db import transaction

from core.selling.bundle import BundleSums, Piece, bundle_sums
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.selling import market
from stations.selling.models import Bundle, Channel, Listing
from stations.units.models import Unit

MOST = 12
UNIT = HistoryEntry.Subject.UNIT


def sums_of(listings: Sequence[Listing], parcels: int = 1) -> BundleSums:
    """What these save together. Raises ValueError for fewer than two, or without a price."""
    if not listings:
        raise ValueError("A bundle is two units or more.")
    channel = listings[0].channel
    books = market.books_of([one.unit for one in listings])
    pieces = [
        Piece(one.asking or Decimal(0), _floor(one, its, channel), one.waiting, its.leaves(channel), its.postage)
        for one in listings
        for its in [books[one.unit_id]]
    ]
    return bundle_sums(pieces, fee_fixed=channel.fee_fixed, parcels=parcels)


def postage_of(units: Iterable[Unit], parcels: int) -> Decimal:
    """What sending them in so many parcels is reckoned to take: as the dearest of them alone. A query."""
    sending = market.sending()
    each = sorted((sending.postage(unit.model_id, unit.form_factor).amount for unit in units), reverse=True)
    return sum(each[:parcels], Decimal(0))


def _floor(listing: Listing, books: market.UnitBooks, channel: Channel) -> Decimal | None:
    """The lowest price of one of a bundle: under its floor only where it is offered so for a reason. None where no
    price covers its cost."""
    asking = listing.asking if listing.below_floor_reason else None
    try:
        _, floor = books.floors(channel)
    except ValueError:
        return asking
    return floor if asking is None else min(floor, asking)


@transaction.atomic
def put_together(
    person: Person, units: Sequence[Unit], title: str, price: Decimal, parcels: int = 1, reason: str = ""
) -> Bundle:
    """Offer them together; each stays on offer alone as well. Under the floor of all only with a reason."""
    require(person, "put a bundle together")
    listings = [on_offer(lock_row(Unit.objects.all(), unit)) for unit in sorted(units, key=lambda unit: unit.pk)]
    if not 2 <= len(listings) <= MOST:
        raise Refused(f"Choose from 2 to {MOST} of what is on offer.", "units")
    asking = sum((one.asking or Decimal(0) for one in listings), Decimal(0))
    if price <= 0:
        raise Refused("A bundle costs more than 0.", "price")
    if price > asking:
        raise Refused(f"Apart they are {asking}: nobody pays more for all together.", "price")
    if not 1 <= parcels <= len(listings):
        raise Refused(f"From 1 to {len(listings)} parcels.", "parcels")
    reason = within(reason.strip(), 200, "below_floor_reason")
    if not reason and (under := under_the_floor(sums_of(listings, parcels), price)):
        raise Refused(f"{under} Say why, or ask more.", "below_floor_reason")
    title = within(title, 120, "title") or " and ".join(one.unit.title for one in listings)[:120]
    bundle = Bundle.objects.create(
        title=title,
        price=price,
        parcels=parcels,
        below_floor_reason=reason,
        made_at=clock.now(),
        made_by=person,
    )
    bundle.units.set([one.unit for one in listings])
    for one in listings:
        words = f"In the bundle “{title}” for {price}"
        history.record(person, "selling.put_together", UNIT, one.unit_id, words)
    return bundle


def under_the_floor(sums: BundleSums, price: Decimal) -> str:
    """In words, what this price for all of them doesn’t earn back; empty where it does."""
    if sums.floor is None:
        return "No price for all of them covers their cost."
    if price < sums.floor:
        return f"The floor of all is {sums.floor}: under it they don’t earn back their cost."
    return ""


@transaction.atomic
def take_apart(person: Person, bundle: Bundle) -> None:
    """Offer them together no longer."""
    require(person, "put a bundle together")
    bundle = lock_row(Bundle.objects.all(), bundle)
    if not bundle.is_open:
        raise Refused(f"It ended before: {bundle.ended_words}.")
    end_bundle(bundle, "taken apart")
    for unit in bundle.units.all():
        words = f"Not in the bundle “{bundle.title}” any more"
        history.record(person, "selling.take_apart", UNIT, unit.pk, words)


def end_with(unit: Unit, words: str, but: Bundle | None = None) -> None:
    """The bundles that a unit was in end when it goes another way."""
    for bundle in unit.bundles.filter(ended_at=None):
        if bundle != but:
            end_bundle(bundle, words)


def end_bundle(bundle: Bundle, words: str, *, sold: bool = False) -> None:
    """It is offered together no longer."""
    Bundle.objects.filter(pk=bundle.pk).update(ended_at=clock.now(), ended_words=words, sold=sold)


def on_offer(unit: Unit) -> Listing:
    """Its listing; Refused where it is not on offer."""
    listing = Listing.objects.select_related("channel", "unit").filter(unit=unit).first()
    if listing is None or not listing.is_live or listing.asking is None:
        raise Refused(f"{unit.tag} is not on offer.")
    return listing
