"""How long units can be bought at which price: kept as it happens, so that the pace of sales can be learned."""

from datetime import datetime
from decimal import Decimal

from django.db.models import F, Value
from django.db.models.functions import Greatest

from core.selling.grade import Grade
from stations.common import clock
from stations.selling import wording
from stations.selling.models import Listing, PriceStep
from stations.units.models import Unit


def end(unit: Unit) -> None:
    """What goes on ends now; nothing where none does."""
    PriceStep.objects.filter(open_for=unit).update(ended_at=clock.now(), open_for=None)


def sold(unit: Unit, sold_at: datetime, price: Decimal | None) -> None:
    """A sale ended it, not before it began; what was held for its buyer had ended when it was held. `price` is what it
    went for alone."""
    if last := PriceStep.objects.filter(unit=unit).last():
        PriceStep.objects.filter(pk=last.pk).update(sold_for=price)
        _ended(last, min(last.ended_at or sold_at, sold_at))


def sold_on_another_day(unit: Unit, sold_at: datetime) -> None:
    """The sale that ended it was then."""
    if last := PriceStep.objects.filter(unit=unit, sold=True).last():
        _ended(last, sold_at)


def _ended(step: PriceStep, sold_at: datetime) -> None:
    ended = Greatest(F("begun_at"), Value(sold_at))
    PriceStep.objects.filter(pk=step.pk).update(ended_at=ended, open_for=None, sold=True)


def sold_for(unit: Unit, price: Decimal) -> None:
    """The sale that ended it was of another price in the end; one of several together says nothing of it."""
    if last := PriceStep.objects.filter(unit=unit, sold=True, sold_for__isnull=False).last():
        PriceStep.objects.filter(pk=last.pk).update(sold_for=price)


def not_sold(unit: Unit) -> None:
    """The sale came to nothing: nobody paid that price."""
    if last := PriceStep.objects.filter(unit=unit, sold=True).last():
        PriceStep.objects.filter(pk=last.pk).update(sold=False, sold_for=None)


def go_by(unit: Unit, listing: Listing, for_sale: bool) -> None:
    """It stands at its price while it can be bought: not while it is withheld, nor while it is held for somebody."""
    goes_on = PriceStep.objects.filter(open_for=unit).exists()
    if goes_on and not for_sale:
        end(unit)
    elif for_sale and not goes_on:
        begin(unit, listing)


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
