"""How long units stand on offer at which price: kept as it happens, so that the pace of sales can be learned."""

from datetime import datetime

from django.db.models import F, Value
from django.db.models.functions import Greatest

from core.selling.grade import Grade
from stations.common import clock
from stations.selling import wording
from stations.selling.models import Listing, PriceStep
from stations.units.models import Unit


def end(unit: Unit, sold_at: datetime | None = None) -> None:
    """What goes on ends now, or with a sale, which was not before it began; nothing where none does."""
    ended = Greatest(F("begun_at"), Value(sold_at)) if sold_at else clock.now()
    PriceStep.objects.filter(open_for=unit).update(ended_at=ended, open_for=None, sold=sold_at is not None)


def begin(unit: Unit, listing: Listing) -> None:
    """From now on it stands at what is asked; with what is thought likely now."""
    if listing.asking is None:
        return
    end(unit)
    given = unit.grades.order_by("-id").first()
    band = wording.market_now(unit, Grade(given.grade), listing.channel).band if given else None
    PriceStep.objects.create(
        unit=unit,
        open_for=unit,
        channel_id=listing.channel_id,
        asking=listing.asking,
        likely=band.likely if band else None,
        begun_at=clock.now(),
    )
