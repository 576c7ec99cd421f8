"""Parts that are made: which revision, by whom, on what terms."""

from dataclasses import dataclass

from django.db import transaction

from stations.common import clock
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.stock.models import Design, StockItem


@dataclass(frozen=True)
class DesignDetails:
    """The revision that lies in the drawer, who makes it and on what terms; empty where nobody said."""

    revision: str
    maker: str
    terms: str


def design_of(item: StockItem) -> Design:
    """What is kept of how it is made; an empty one where nothing is."""
    return Design.objects.filter(item=item).first() or Design(item=item)


@transaction.atomic
def keep_design(person: Person, item: StockItem, seen_version: int, said: DesignDetails) -> None:
    """Keep, or put right, how a part is made."""
    require(person, "add stock")
    stamped = {**vars(said), "changed_at": clock.now(), "changed_by": person}
    if not history.says_otherwise(design_of(item), vars(said)):
        return
    row = Design.objects.filter(item=item).first()
    if row is None:
        Design.objects.create(item=item, **stamped)
    else:
        save_versioned(row, seen_version, stamped)
    words = "; ".join(filter(None, (said.revision, said.maker, said.terms)))
    history.record(person, "stock.keep_design", HistoryEntry.Subject.STOCK, item.pk, f"Made: {words}")
