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
from stations.selling import market
from stations.units.models import Unit

_LINE = ("line__worth_low", "line__worth_likely", "line__worth_high", "line__finish_cost")
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
    its line is thought worth less the cost to finish; less tax, never less than nothing, and None where nobody said. Of
    what is on commission only our part comes in, and all that it costs goes out of that, as it is when it is sold. Two
    queries for all, and one for what was sent."""
    rows = Unit.objects.filter(lot_id__in=lots).exclude(stage__in=GONE).exclude(holding=Unit.Holding.CUSTODY)
    sending = market.sending()
    found: dict[int, list[Decimal | None]] = defaultdict(list)
    columns = rows.order_by("number").values_list(
        *("lot_id", "line_id", "model_id", "form_factor"),
        *("holding", "owners_terms__commission_percent", *_LINE, *_LISTING),
    )
    for lot, line, model, shape, holding, commission, low, likely, high, finish, asking, percent, fixed in columns:
        if asking is None:
            brings, costs = ShareLine(1, worth_low=low, worth_likely=likely, worth_high=high).expected_worth, finish
        else:
            postage = sending.postage(model, shape).amount
            brings, costs = asking, fee_on(asking, SellingTerms(percent, fixed)) + postage
        consigned = holding == Unit.Holding.CONSIGNED
        if brings is None or (consigned and commission is None):
            found[lot].append(None)
            continue
        if consigned:
            brings -= owners_part(brings, commission)
        found[lot].append(to_cent(max(ZERO, brings - costs - tax_of(line, brings))))
    return found
