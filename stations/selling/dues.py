"""What a sale comes to: the fee, postage and tax on it and its owner’s part, by the terms of its channel and day."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from core.money import ZERO
from core.selling.price import fee_on, owners_part, tax_within
from stations.common.refusals import Refused
from stations.common.registry import Registry
from stations.ledger.models import Account, EntryKind
from stations.ledger.services import Leg
from stations.people import shop_settings
from stations.people.models import TaxScheme
from stations.selling import market
from stations.selling.models import Channel, Sale
from stations.units import costs
from stations.units.models import Unit

# Who knows that a unit is taxed by itself though others are taxed by the period.
taxed_by_item: Registry[Callable[[Unit], bool]] = Registry("who is taxed by the item")


@dataclass(frozen=True)
class Dues:
    """What goes off a price, in base currency, and how its tax came about; named as a sale keeps it."""

    fee: Decimal
    postage: Decimal
    tax: Decimal
    tax_scheme: TaxScheme
    tax_percent: Decimal
    tax_basis: Decimal
    owners_part: Decimal


def dues_of(
    unit: Unit, price: Decimal, channel: Channel, day: date, fee: Decimal | None = None, postage: Decimal | None = None
) -> Dues:
    """What a sale at this price comes to; `fee` None: by the channel’s terms, `postage` None: as those like it took.
    Raises Refused at its field for a price that is none, and for a postage below 0."""
    if price <= 0:
        raise Refused("It sold for more than 0.", "price")
    if postage is None:
        postage = market.postage_of(unit).amount
    if postage < 0:
        raise Refused("This may not be below 0.", "postage")
    settings, bought_for = shop_settings.settings(), costs.purchase_of([unit])[unit.pk]
    taxed, terms = settings.tax_on(day), market.terms_of(channel, settings, day)
    owed = owners_part(price, unit.agreed.commission_percent) if unit.consigned else ZERO
    scheme = taxed.scheme
    if scheme == TaxScheme.GLOBAL and any(asked(unit) for asked in taxed_by_item.values()):
        scheme = TaxScheme.MARGIN
    return Dues(
        fee=fee_on(price, terms) if fee is None else fee,
        postage=postage,
        # Under global accounting the tax of all sales of a period is worked out when the period is closed. Of a thing
        # on commission only our part is ours, so only that is taxed (rules differ: ask an accountant).
        tax=ZERO if scheme == TaxScheme.GLOBAL else tax_within(price - owed, bought_for, terms),
        tax_scheme=scheme,
        tax_percent=taxed.percent,
        tax_basis=bought_for,
        owners_part=owed,
    )


def legs_of(sale: Sale) -> list[Leg]:
    """Its price in, and what goes off it out: each on its unit, and where it is owed or was paid."""
    unit, legs = sale.unit, []
    for kind, account, account_id, amount in (
        (EntryKind.SALE, Account.BUYER_OWES, sale.pk, -sale.price),
        (EntryKind.FEE, Account.CASH, 0, sale.fee),
        (EntryKind.POSTAGE, Account.CASH, 0, sale.postage),
        (EntryKind.TAX, Account.TAX_OWED, 0, sale.tax),
        (EntryKind.PAYOUT, Account.OWNER_OWED, 0, sale.owners_part),
    ):
        legs.append(Leg(Account.UNIT, unit.pk, kind, amount, unit.lot_id))
        legs.append(Leg(account, account_id, kind, -amount, None))
    return legs
