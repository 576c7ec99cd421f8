"""Pieces of a lot that are no machines go into drawers; and what was received by mistake goes back."""

from django.db import transaction
from django.db.models import F

from core.intake.completeness import Presence
from stations.buying.models import Lot, LotLine
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.ledger.services import reverse_posting
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.stock import drawer
from stations.stock.models import StockItem
from stations.stock.services import Sort, item_of
from stations.units import busy, costs
from stations.units.models import Content, DrawerReceipt, Unit

LOT, STOCK = HistoryEntry.Subject.LOT, HistoryEntry.Subject.STOCK


@transaction.atomic
def receive_into_drawer(person: Person, line: LotLine, count: int, sort: Sort, typed: str = "") -> DrawerReceipt:
    """Put `count` pieces of a lot line in a drawer, each with its share of the line's cost; `typed` is how much they
    are there, in the drawer's measure (nothing: as many pieces)."""
    require(person, "receive units")
    line = lock_row(LotLine.objects.select_related("lot"), line)
    if not 1 <= count <= line.outstanding:
        raise Refused(f"{line.outstanding} of {line.quantity} are still to be received.", "count")
    if line.lot.in_custody:
        raise Refused(f"It belongs to {line.lot.owner_name}: it does not go among our own parts.")
    if not sort.name:
        raise Refused("Say what part it is.", "name")
    item = item_of(sort)
    amount = drawer.typed_amount(item, typed or str(count), "amount")
    drawer.put(item, amount)
    indexes = costs.free_indexes(line)[:count]
    receipt = DrawerReceipt.objects.create(
        line=line, item=item, indexes=indexes, amount=amount, when=clock.now(), who=person
    )
    LotLine.objects.filter(pk=line.pk).update(received=F("received") + count)
    if line.lot.arrived_on is None:
        Lot.objects.filter(pk=line.lot_id).update(arrived_on=clock.today())
    words = f"{count} of {line.description}: {item.words(amount)} {item.name} in drawer {item.drawer or '–'}"
    history.record(person, "intake.receive_into_drawer", LOT, line.lot_id, words, receipt=receipt.pk)
    history.record(person, "intake.receive_into_drawer", STOCK, item.pk, f"From {line.lot.code}: {words}")
    costs.carry_cost(person, line)
    drawer.came(person, [item])
    receipt.refresh_from_db()
    return receipt


@transaction.atomic
def take_back_receipt(person: Person, receipt: DrawerReceipt, why: str) -> None:
    """What went into a drawer by mistake is still to be received; refused when it may have been used."""
    require(person, "take back what was received")
    if not why:
        raise Refused("Say what the mistake was.", "why")
    lock_row(LotLine.objects.all(), receipt.line)
    item = drawer.hold_row(receipt.item)
    receipt = lock_row(DrawerReceipt.objects.select_related("line__lot", "item", "posting"), receipt)
    if receipt.undone_at:
        raise Refused("That was put back already.")
    if not costs.untouched(receipt):
        raise Refused(f"Some of it was used: only {item.amount} are left in the drawer.")
    if receipt.amount > item.free:
        raise Refused(f"{item.words(item.reserved)} of it are held: {drawer.held_words(item)}.")
    if receipt.posting:
        reverse_posting(person, receipt.posting, "received by mistake")
    StockItem.objects.filter(pk=item.pk).update(quantity=F("quantity") - receipt.amount)
    DrawerReceipt.objects.filter(pk=receipt.pk).update(undone_at=clock.now(), posting=None, cost=0)
    LotLine.objects.filter(pk=receipt.line_id).update(received=F("received") - receipt.pieces)
    words = f"Received by mistake, put back: {receipt}; {why}"
    history.record(person, "intake.take_back_receipt", LOT, receipt.line.lot_id, words, receipt=receipt.pk)
    history.record(person, "intake.take_back_receipt", STOCK, item.pk, words)


@transaction.atomic
def un_receive(person: Person, unit: Unit, why: str) -> None:
    """A unit that was received by mistake is none: its line is still to be received. Refused while anything rests on
    it; its tag is not given out again."""
    require(person, "take back what was received")
    if not why:
        raise Refused("Say what the mistake was.", "reason")
    lock_row(LotLine.objects.all(), unit.line)
    unit = lock_row(Unit.objects.select_related("line__lot", "share_posting"), unit)
    if rests := rests_on(unit):
        raise Refused(f"Not any more: {', '.join(rests)}.")
    if unit.share_posting:
        reverse_posting(person, unit.share_posting, "received by mistake")
    words = f"{unit.tag} was received by mistake, and is none: {why}"
    history.record(person, "intake.un_receive", LOT, unit.lot_id, words, number=unit.number, title=unit.title)
    LotLine.objects.filter(pk=unit.line_id).update(received=F("received") - 1)
    unit.contents.all().delete()
    unit.delete()


def rests_on(unit: Unit) -> list[str]:
    """What rests on a unit, so that it can't be un-received, in words: a query for each kind of thing."""
    found = list(busy.what(unit))
    if unit.assessed_at:
        found.append("its intake is finished")
    if unit.approach or unit.path:
        found.append("how it is treated, or what becomes of it, was chosen")
    if unit.contents.exclude(presence=Presence.UNSEEN).exists():
        found.append("its contents were ticked off")
    for relation in Unit._meta.related_objects:
        if relation.related_model is Content:
            continue
        rows = relation.related_model._base_manager.filter(**{relation.field.name: unit.pk})
        if rows.exists():
            found.append(f"there is a {relation.related_model._meta.verbose_name} of it")
    return list(dict.fromkeys(found))
