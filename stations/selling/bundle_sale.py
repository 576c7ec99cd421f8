"""Several units sold as one: each has its part of price, fee and postage, and the parts add up."""

from datetime import date
from decimal import Decimal

from django.db import transaction

from core.money import allocate
from core.selling.bundle import share_price
from core.selling.price import fee_on
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people import shop_settings
from stations.people.models import Person
from stations.people.permissions import require
from stations.selling import market, services
from stations.selling.bundles import end_bundle, on_offer
from stations.selling.models import Bundle, Channel, Sale
from stations.units.models import Unit


@transaction.atomic
def sell_bundle(
    person: Person,
    bundle: Bundle,
    price: Decimal,
    buyer: str,
    postage: Decimal,
    *,
    channel: Channel | None = None,
    on: date | None = None,
) -> list[Sale]:
    """Sell all of them, today or on a day before: price, fee and postage are shared by what each was asked for, and
    add up."""
    require(person, "record a sale")
    units = [lock_row(Unit.objects.all(), unit) for unit in bundle.units.order_by("pk")]
    bundle = lock_row(Bundle.objects.all(), bundle)
    if not bundle.is_open:
        raise Refused(f"The bundle ended: {bundle.ended_words}.")
    listings = [on_offer(unit) for unit in units]
    asked = [one.asking or Decimal(0) for one in listings]
    channel = channel or listings[0].channel
    try:
        prices = share_price(price, asked)
    except ValueError as problem:
        raise Refused(str(problem), "price") from problem
    terms = market.terms_of(channel, shop_settings.settings())
    fees, posts = allocate(fee_on(price, terms), prices), allocate(postage, prices)
    end_bundle(bundle, "sold", sold=True)
    return [
        services.sell(person, unit, each, buyer, post, channel=channel, fee=fee, bundle=bundle, on=on)
        for unit, each, fee, post in zip(units, prices, fees, posts, strict=True)
    ]
