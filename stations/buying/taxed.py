"""The tax within what pieces may still bring: what is expected of a lot is left after it, as what was realised is."""

from collections import defaultdict
from collections.abc import Callable, Collection
from decimal import Decimal

from django.db.models import Sum

from core.buying.landed import ChargeKind
from core.buying.share import Basis, weights_of
from core.money import ZERO
from core.selling.price import SellingTerms, tax_within
from stations.buying.models import ChargeShare, LineShare, LotCharge, LotLine
from stations.buying.sharing import share_line
from stations.people import shop_settings
from stations.people.models import TaxScheme


def counted_kinds() -> list[ChargeKind]:
    """The charges that count as what a thing was bought for, where tax is on the margin."""
    return [ChargeKind.PRICE, *([ChargeKind.PREMIUM] if shop_settings.settings().premium_counts else [])]


def shares_of(lines: Collection[int]) -> dict[int, tuple[Decimal, Decimal]]:
    """By line, of its newest share: the part that counts as bought for, and the whole. Two queries."""
    newest = dict(LineShare.objects.filter(line_id__in=lines).order_by("id").values_list("line_id", "pk"))
    kinds, found = counted_kinds(), dict.fromkeys(newest, (ZERO, ZERO))
    parts = ChargeShare.objects.filter(share_id__in=newest.values())
    for line, kind, amount in parts.values_list("share__line_id", "charge__kind", "amount"):
        counted, whole = found[line]
        found[line] = counted + (amount if kind in kinds else ZERO), whole + amount
    return found


def tax_of_pieces(lots: Collection[int]) -> Callable[[int, Decimal], Decimal]:
    """What tells the tax within the price of one piece of a line (by its key), as sales are taxed today. Five queries
    at most, none of them where tax is not on the margin."""
    tax = shop_settings.settings().tax
    terms = SellingTerms(ZERO, tax_scheme=tax.of_an_item, tax_percent=tax.percent)
    bought = _bought_for(lots) if terms.tax_scheme == TaxScheme.MARGIN else {}
    return lambda line, price: tax_within(price, bought.get(line, ZERO), terms)


def _bought_for(lots: Collection[int]) -> dict[int, Decimal]:
    """What counts as bought for of a piece of each line; of a lot that is not shared yet, as it would be by value."""
    worth = ("worth_low", "worth_likely", "worth_high", "finish_cost", "weight_kg", "fixed_share")
    lines = list(LotLine.objects.filter(lot_id__in=lots).only("lot_id", "quantity", "not_come", *worth))
    lines = [line for line in lines if line.pieces]
    shares = shares_of([line.pk for line in lines])
    found = {line.pk: shares[line.pk][0] / line.pieces for line in lines if line.pk in shares}
    by_lot: dict[int, list[LotLine]] = defaultdict(list)
    for line in lines:
        if line.pk not in found:
            by_lot[line.lot_id].append(line)
    charged = LotCharge.objects.filter(lot_id__in=by_lot, replaced_at=None, kind__in=counted_kinds())
    for lot, paid in charged.values_list("lot_id").annotate(paid=Sum("base")).order_by():
        rows = [share_line(line) for line in by_lot[lot]]
        weights = weights_of(rows, Basis.VALUE)
        weights = weights if any(weights) else weights_of(rows, Basis.COUNT)
        for line, weight in zip(by_lot[lot], weights, strict=True):
            found[line.pk] = paid * weight / sum(weights) / line.pieces
    return found
