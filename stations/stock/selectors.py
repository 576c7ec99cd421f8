"""What the pages of the stock read."""

from stations.ledger.models import Account
from stations.ledger.selectors import balances
from stations.stock.models import StockItem


def stock_with_value(items: list[StockItem]) -> list[tuple]:
    """Each item with what it is worth in the books, all of it and a piece: one query for all."""
    worth = balances(Account.STOCK, [item.pk for item in items])
    return [(item, worth[item.pk], worth[item.pk] / item.quantity if item.quantity else None) for item in items]
