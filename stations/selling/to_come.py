"""What units that are here may still bring: one figure, the same on every page."""

from collections import defaultdict
from decimal import Decimal
from typing import Any, NamedTuple

from django.db.models import Case, DecimalField, Expression, ExpressionWrapper, F, Q, When
from django.db.models.functions import Coalesce

from core.buying.share import ShareLine
from core.flow.stage import GONE
from core.intake.triage import FOR_PARTS, Path, Prices, estimated, fetches, unfinished
from core.machine.approach import Approach
from core.money import ZERO, to_cent
from core.selling.price import SellingTerms, fee_on, owners_part
from stations.buying.selectors import TaxOf, received_worth
from stations.catalogue.prices import prices_by_model
from stations.ledger.models import Account, EntryKind
from stations.ledger.selectors import by_kind
from stations.selling import market
from stations.selling.models import Channel
from stations.units.models import Unit
from stations.units.paths import USUAL_FEE

# What finishing is booked as; of a planned lot, what it costs to finish one has selling in it too.
WORK = (EntryKind.LABOUR, EntryKind.PART_ISSUED, EntryKind.PART_RETURNED)
_READ = (
    *("pk", "lot_id", "line_id", "model_id", "form_factor", "path", "approach"),
    *("holding", "owners_terms__commission_percent"),
    *("line__worth_low", "line__worth_likely", "line__worth_high", "line__finish_cost"),
    *("listing__asking", "listing__channel__fee_percent", "listing__channel__fee_fixed"),
)
# What is taken apart and not sold whole.
_FOR_PARTS = Q(path=Path.PART_OUT) | Q(approach=Approach.DONOR)


def worth_to_us() -> Expression:
    """What a unit is to bring us: what is asked, or else what its line is thought worth, for parts what is usual of
    that, to be scrapped nothing; of what is on commission our part, of what is in custody nothing. None where nobody
    said."""
    share = Case(
        When(holding=Unit.Holding.CUSTODY, then=Decimal(0)),
        When(holding=Unit.Holding.CONSIGNED, then=F("owners_terms__commission_percent") / Decimal(100)),
        default=Decimal(1),
        output_field=DecimalField(max_digits=5, decimal_places=4),
    )
    thought = Case(
        When(path=Path.SCRAP, then=Decimal(0)),
        When(_FOR_PARTS, then=F("line__worth_likely") * Decimal(str(FOR_PARTS))),
        default=F("line__worth_likely"),
        output_field=DecimalField(max_digits=12, decimal_places=2),
    )
    price = Coalesce(F("listing__asking"), thought)
    return ExpressionWrapper(price * share, output_field=DecimalField(max_digits=12, decimal_places=2))


@received_worth.add("selling")
def units_to_come(lots: list[int], tax_of: TaxOf) -> dict[int, list[Decimal | None]]:
    """By lot, for each unit that is ours to sell, what it brings: see `each_to_come`."""
    found: dict[int, list[Decimal | None]] = defaultdict(list)
    for one in each_to_come(lots, tax_of):
        found[one.lot].append(one.amount)
    return found


class UnitToCome(NamedTuple):
    """What one unit brings, by the keys of it and its lot; None where nobody said."""

    unit: int
    lot: int
    amount: Decimal | None


def each_to_come(lots: list[int], tax_of: TaxOf) -> list[UnitToCome]:
    """For each unit of these lots that is ours to sell, what it brings less tax, never less than nothing, and None
    where nobody said. Of what is on commission only our part comes in, and all that it costs goes out of that, as it is
    when it is sold. Four queries for all, two more where something was decided."""
    here = Unit.objects.filter(lot_id__in=lots).exclude(stage__in=GONE).exclude(holding=Unit.Holding.CUSTODY)
    rows: list[Any] = list(here.order_by("number").values_list(*_READ, named=True))
    sending, spent = market.sending(), by_kind(Account.UNIT, [row.pk for row in rows])
    decided = {row.pk: becomes for row in rows if (becomes := _becomes(row))}
    prices = prices_by_model({row.model_id for row in rows if row.pk in decided} - {None})
    usual = market.usual_channel() if decided else None
    found = []
    for row in rows:
        if becomes := decided.get(row.pk):
            brings = _fetches(row, becomes, prices.get(row.model_id))
        else:
            brings = _thought(row) if row.listing__asking is None else row.listing__asking
        if row.listing__asking is None and becomes is None:
            costs = max(ZERO, row.line__finish_cost - sum(spent[row.pk].get(kind, ZERO) for kind in WORK))
        else:
            costs = fee_on(brings or ZERO, _terms(row, usual)) + sending.postage(row.model_id, row.form_factor).amount
        consigned, commission = row.holding == Unit.Holding.CONSIGNED, row.owners_terms__commission_percent
        if brings is None or (consigned and commission is None):
            found.append(UnitToCome(row.pk, row.lot_id, None))
            continue
        if consigned:
            brings -= owners_part(brings, commission)
        amount = to_cent(max(ZERO, brings - costs - tax_of(row.line_id, brings)))
        found.append(UnitToCome(row.pk, row.lot_id, amount))
    return found


def _terms(row: Any, usual: Channel | None) -> SellingTerms:
    """What it is sold by: on the channel of its listing, or else on the usual one; without one for the usual fee."""
    if row.listing__channel__fee_percent is not None:
        return SellingTerms(row.listing__channel__fee_percent, row.listing__channel__fee_fixed)
    if usual is not None:
        return SellingTerms(usual.fee_percent, usual.fee_fixed)
    return SellingTerms(Decimal(str(100 * USUAL_FEE)))


def _thought(row: Any) -> Decimal | None:
    """What its line is thought worth."""
    worth = {name: getattr(row, f"line__{name}") for name in ("worth_low", "worth_likely", "worth_high")}
    return ShareLine(1, **worth).expected_worth


def _becomes(row: Any) -> Path | None:
    """What becomes of it unfinished, where that was decided and no price is asked."""
    return unfinished(row.path, row.approach == Approach.DONOR) if row.listing__asking is None else None


def _fetches(row: Any, becomes: Path, known: Prices | None) -> Decimal | None:
    """What it brings so; None where nobody said what one is worth. What is scrapped brings nothing in any case."""
    thought = ZERO if becomes is Path.SCRAP else _thought(row)
    prices = known or (None if thought is None else estimated(thought))
    return None if prices is None else to_cent(Decimal(repr(fetches(becomes, prices))))
