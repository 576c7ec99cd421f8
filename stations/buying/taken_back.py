"""A lot that was not bought: recorded by a slip, twice, or of a sale that came to nothing."""

from django.db import transaction

from core.buying.landed import Charge, ChargeKind
from core.money import ZERO
from stations.buying.details import LotDetails
from stations.buying.models import BidPlan, Lot
from stations.buying.not_come import say_not_come
from stations.buying.services import correct_lot
from stations.common.locking import lock_row
from stations.common.refusals import Refused, reason
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require

# What a plan keeps of the day on which it was bought.
_OPEN = {
    **dict.fromkeys(("lot", "decided_at", "decided_by", "forecast_worth", "forecast_low", "forecast_high")),
    **dict.fromkeys(("forecast_landed", "forecast_hours", "forecast_terms")),
    "status": BidPlan.Status.OPEN,
}
_HEADER = ("title", "source_kind", "bought_on", "currency", "rate", "paid_on", "arrived_on", "owner_name", "note")


@transaction.atomic
def not_bought(person: Person, lot: Lot, why: str) -> None:
    """Nothing of it comes and nothing was paid for it; a plan that was bought with it is open again. The lot keeps its
    number and its story."""
    require(person, "correct a lot")
    lot = lock_row(Lot.objects.select_related("supplier"), lot)
    lines = list(lot.lines.all())
    if here := sum(line.received for line in lines):
        raise Refused(f"{here} of it {'was' if here == 1 else 'were'} received: it was bought.")
    why = reason(why)
    nothing = (Charge(ChargeKind.PRICE, ZERO),) if lot.has_a_price else ()
    header = {name: getattr(lot, name) for name in _HEADER}
    said = LotDetails(supplier_name=lot.supplier.name, charges=nothing, **header)
    correct_lot(person, lot, lot.version, said, None)
    for line in lines:
        say_not_come(person, line, line.quantity, why)
    BidPlan.objects.filter(lot=lot).update(**_OPEN)
    history.record(person, "buying.not_bought", HistoryEntry.Subject.LOT, lot.pk, f"Not bought: {why}", why=why)
