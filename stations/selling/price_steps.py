"""How long units stand on offer at which price: kept as it happens, so that the pace of sales can be learned."""

from core.selling.grade import Grade
from stations.common import clock
from stations.selling import wording
from stations.selling.models import Listing, PriceStep
from stations.units.models import Unit


def end(unit: Unit, *, sold: bool = False) -> None:
    """What goes on ends now; nothing where none does."""
    PriceStep.objects.filter(open_for=unit).update(ended_at=clock.now(), open_for=None, sold=sold)


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
