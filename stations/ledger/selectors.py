"""Sums over the book. Each function is one query, however many accounts are asked for."""

from collections import defaultdict
from collections.abc import Iterable
from decimal import Decimal

from django.db.models import Sum

from stations.ledger.models import Account, LedgerEntry, Posting

# Accounts whose sum, over a lot, is what the lot has cost and earned. Cash, labour and tax are the other side.
RESULT_ACCOUNTS = [Account.LOT, Account.LINE, Account.UNIT, Account.LOSS]


def balance(account: Account, account_id: int) -> Decimal:
    return balances(account, [account_id])[account_id]


def balances(account: Account, ids: Iterable[int]) -> dict[int, Decimal]:
    """What stands on each account; 0 for one never posted to."""
    found = defaultdict(lambda: Decimal("0.00"))
    rows = LedgerEntry.objects.filter(account=account, account_id__in=list(ids))
    for account_id, total in rows.values_list("account_id").annotate(total=Sum("amount")):
        found[account_id] = total
    return found


def by_kind(account: Account, ids: Iterable[int]) -> dict[int, dict[str, Decimal]]:
    """Sums by ledger kind for each account asked for."""
    found: dict[int, dict[str, Decimal]] = defaultdict(dict)
    rows = LedgerEntry.objects.filter(account=account, account_id__in=list(ids))
    for account_id, kind, total in rows.values_list("account_id", "kind").annotate(total=Sum("amount")):
        found[account_id][kind] = total
    return found


def lots_by_kind(lot_ids: Iterable[int]) -> dict[int, dict[str, Decimal]]:
    """Sums by ledger kind over everything that belongs to each lot: the lot, its lines, units and losses."""
    found: dict[int, dict[str, Decimal]] = defaultdict(dict)
    rows = LedgerEntry.objects.filter(lot_id__in=list(lot_ids), account__in=RESULT_ACCOUNTS)
    for lot_id, kind, total in rows.values_list("lot_id", "kind").annotate(total=Sum("amount")):
        found[lot_id][kind] = total
    return found


def postings_of(account: Account, account_id: int):
    """The postings that touched an account, by the day on which each happened, with their entries and people."""
    return (
        Posting.objects.filter(entries__account=account, entries__account_id=account_id)
        .order_by("happened_on", "id")
        .distinct()
        .select_related("who", "reverses")
        .prefetch_related("entries")
    )
