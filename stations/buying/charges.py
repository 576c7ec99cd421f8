"""The charges of a lot: from what was typed to what they come to, and back."""

from collections.abc import Sequence
from decimal import Decimal

from core.buying.landed import Charge, ChargeError, ChargeKind, LandedCost, WorkedCharge, landed_cost, read_bands
from core.buying.share import Basis
from stations.buying.models import Lot, LotCharge
from stations.common import clock
from stations.common.currency import base_currency
from stations.common.refusals import Refused

# Far beyond any lot, and within what the columns of the books hold.
MOST_LANDED = 10**9


class ChargeRefused(Refused):
    """A refusal that knows which charge, and which of its fields, it is about."""

    def __init__(self, problem: ChargeError) -> None:
        super().__init__(str(problem), "charges")
        self.index = problem.index
        self.at = problem.field


def work_out(charges: Sequence[Charge], rate: Decimal, currency: str) -> LandedCost:
    """What the charges of a lot come to. Raises Refused, or ChargeRefused at the charge that is wrong."""
    try:
        landed = landed_cost(charges, rate, currency, base_currency())
    except ChargeError as problem:
        raise ChargeRefused(problem) from problem
    except ValueError as problem:
        raise Refused(str(problem), "rate") from problem
    if landed.total >= MOST_LANDED or any(charge.foreign >= MOST_LANDED for charge in landed.charges):
        raise Refused("That is more than the books can hold. Check the amounts and the rate.", "rate")
    return landed


def current(lot: Lot) -> list[LotCharge]:
    """The charges that hold now, in order."""
    return list(lot.charges.filter(replaced_at=None))


def are_priced(lot: Lot) -> bool:
    """Whether it is recorded what the lot was bought for: 0 is a price, a charge beside it is none."""
    return not lot.has_a_price or lot.charges.filter(replaced_at=None, kind=ChargeKind.PRICE).exists()


def charges_of(lot: Lot) -> list[Charge]:
    """The charges that hold now, as they were typed."""
    return [as_typed(row) for row in current(lot)]


def replace(lot: Lot, landed: LandedCost) -> list[LotCharge]:
    """Put these charges in the place of those that held."""
    lot.charges.filter(replaced_at=None).update(replaced_at=clock.now())
    return LotCharge.objects.bulk_create(_row(lot, position, w) for position, w in enumerate(landed.charges, 1))


def as_typed(row: LotCharge) -> Charge:
    """A stored charge as it was typed."""
    return Charge(
        ChargeKind(row.kind),
        amount=row.amount or Decimal(0),
        percent=row.percent,
        bands=read_bands(row.bands) if row.bands else (),
        of=tuple(ChargeKind(kind) for kind in row.of.split(",") if kind),
        name=row.name,
        currency=row.currency if row.own_rate else "",
        rate=row.rate if row.own_rate else None,
        basis=Basis(row.basis) if row.basis else None,
    )


def bands_text(charge: Charge) -> str:
    return "; ".join(
        f"{band.percent.normalize():f}" + (f" to {band.up_to.normalize():f}" if band.up_to is not None else "")
        for band in charge.bands
    )


def _row(lot: Lot, position: int, worked: WorkedCharge) -> LotCharge:
    charge = worked.charge
    return LotCharge(
        lot=lot,
        position=position,
        kind=charge.kind,
        name=charge.name,
        amount=None if charge.rests_on else charge.amount,
        percent=charge.percent,
        bands=bands_text(charge),
        of=",".join(charge.of),
        basis=charge.basis or "",
        own_rate=charge.rate is not None,
        currency=worked.currency,
        rate=worked.rate,
        foreign=worked.foreign,
        base=worked.base,
        how=worked.how,
    )
