"""Everything on offer is looked at again and again: gone stale, too dear for the time left, what waiting is worth."""

from datetime import timedelta
from decimal import Decimal

from django.db import transaction
from django.db.models import Q

from core.money import to_cent
from core.selling.waiting import markdown
from stations.common import clock
from stations.common.locking import lock_row
from stations.people import shop_settings
from stations.selling import inbox, placing, wording
from stations.selling.as_recorded import listing_facts
from stations.selling.models import Listing, Offer
from stations.selling.waiting import Waiting, after_all
from stations.units.models import Unit

# At least so often; whenever something of the unit changed, at once.
AGAIN_AFTER = timedelta(hours=20)
AT_ONCE = 20


def due():
    """On offer, and not looked at since something changed or for long; those that never were first."""
    old = Q(looked_at=None) | Q(looked_at__lt=clock.now() - AGAIN_AFTER)
    return Listing.objects.filter(old, status=Listing.Status.LIVE).order_by("looked_at", "id")


def look_at_some() -> bool:
    """Look at a few of those that are due; answers whether there are more."""
    for listing in due().select_related("unit__model", "unit__line", "unit__lot", "channel")[:AT_ONCE]:
        look_at(listing)
    return due().exists()


def look_at(listing: Listing) -> None:
    """Keep beside the listing what the seller is told of it, and what to say to each offer that is open."""
    mine = Listing.objects.filter(pk=listing.pk)
    # Said first: what changes from now on makes it due again.
    mine.update(looked_at=clock.now())
    facts = listing_facts(listing.unit)
    waiting = inbox.waiting_now(listing.unit, listing, facts)
    changed = wording.changed(listing, facts)
    due_now = waiting is not None and waiting.markdown_due
    mine.update(
        stale=len(changed),
        ask_now=waiting.ask_now if waiting and due_now else None,
        gains=gained(listing, waiting) if waiting and due_now else None,
        waiting=waiting.waiting if waiting else None,
        least=waiting.least if waiting else None,
    )
    with transaction.atomic():
        # What must be said of it is part of what stands on a marketplace, and may be worded otherwise now.
        placing.settle(lock_row(Unit.objects.all(), listing.unit), look_again=False)
    for offer in Offer.objects.filter(unit=listing.unit, status=Offer.Status.OPEN):
        inbox.compare(offer, listing, waiting)


def gained(listing: Listing, waiting: Waiting) -> Decimal | None:
    """What going down as planned brings more than asking the same to the end."""
    if listing.asking is None:
        return None
    weeks, holding = len(waiting.plan.weeks), shop_settings.settings().holding
    after = after_all(listing.unit, waiting.left, waiting.for_parts)
    likely = waiting.band.likely
    kept = markdown(likely, [listing.asking], waiting.left, waiting.pace, weeks=weeks, holding=holding, after=after)
    return max(Decimal(0), to_cent(Decimal(repr(waiting.plan.worth - kept.worth))))
