"""What units that are here may still bring: one figure, the same on every page."""

from collections import defaultdict
from decimal import Decimal

from django.db.models import Case, DecimalField, Expression, ExpressionWrapper, F, When
from django.db.models.functions import Coalesce

from core.buying.share import ShareLine
from core.flow.stage import GONE
from core.money import ZERO, to_cent
from core.selling.price import SellingTerms, fee_on, owners_part
from stations.buying.selectors import TaxOf, received_worth
from stations.ledger.models import Account, EntryKind
from stations.ledger.selectors import by_kind
from stations.selling import market
from stations.units.models import Unit

_LINE = ("line__worth_low", "line__worth_likely", "line__worth_high", "line__finish_cost")
# What finishing is booked as; of a planned lot, what it costs to finish one has selling in it too.
WORK = (EntryKind.LABOUR, EntryKind.PART_ISSUED, EntryKind.PART_RETURNED)
_LISTING = ("listing__asking", "listing__channel__fee_percent", "listing__channel__fee_fixed")


def worth_to_us() -> Expression:
    """What a unit is to bring us: what is asked, or else what its line is thought worth; of what is on commission our
    part, of what is in custody nothing. None where nobody said."""
    share = Case(
        When(holding=Unit.Holding.CUSTODY, then=Decimal(0)),
        When(holding=Unit.Holding.CONSIGNED, then=F("owners_terms__commission_percent") / Decimal(100)),
        default=Decimal(1),
        output_field=DecimalField(max_digits=5, decimal_places=4),
    )
    price = Coalesce(F("listing__asking"), F("line__worth_likely"))
    return ExpressionWrapper(price * share, output_field=DecimalField(max_digits=12, decimal_places=2))


@received_worth.add("selling")
def units_to_come(lots: list[int], tax_of: TaxOf) -> dict[int, list[Decimal | None]]:
    """By lot, for each unit that is ours to sell: what is asked less fee and postage, where a price is set; else what
    its line is thought worth less what is left of the cost to finish (what was spent on that is paid already); less
    tax, never less than nothing, and None where nobody said. Of what is on commission only our part comes in, and all
    that it costs goes out of that, as it is when it is sold. Four queries for all."""
    rows = Unit.objects.filter(lot_id__in=lots).exclude(stage__in=GONE).exclude(holding=Unit.Holding.CUSTODY)
    sending = market.sending()
    found: dict[int, list[Decimal | None]] = defaultdict(list)
    columns = list(
        rows.order_by("number").values_list(
            *("pk", "lot_id", "line_id", "model_id", "form_factor"),
            *("holding", "owners_terms__commission_percent", *_LINE, *_LISTING),
        )
    )
    spent = by_kind(Account.UNIT, [pk for pk, *_ in columns])
    for pk, lot, line, model, shape, holding, commission, low, likely, high, finish, asking, *fees in columns:
        if asking is None:
            brings = ShareLine(1, worth_low=low, worth_likely=likely, worth_high=high).expected_worth
            costs = max(ZERO, finish - sum(spent[pk].get(kind, ZERO) for kind in WORK))
        else:
            postage = sending.postage(model, shape).amount
            brings, costs = asking, fee_on(asking, SellingTerms(*fees)) + postage
        consigned = holding == Unit.Holding.CONSIGNED
        if brings is None or (consigned and commission is None):
            found[lot].append(None)
            continue
        if consigned:
            brings -= owners_part(brings, commission)
        found[lot].append(to_cent(max(ZERO, brings - costs - tax_of(line, brings))))
    return found
