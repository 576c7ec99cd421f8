"""What a buyer does: record a lot, put it right, share its cost."""

from collections.abc import Callable, Sequence

from django.db import transaction
from django.db.models import Max, Sum

from core.buying.landed import ChargeKind, LandedCost
from stations.buying import charges as lot_charges
from stations.buying.details import LineDetails, LotDetails
from stations.buying.models import Lot, LotLine, Sharing, Supplier
from stations.buying.not_come import carry_on
from stations.buying.sharing import charged, current_sharing
from stations.common.happened import refuse_to_come
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.common.registry import Registry
from stations.ledger.models import Account, EntryKind
from stations.ledger.services import Leg, post, reverse_posting
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned

# So many lots from one supplier on one day are looked through for one just like it.
MOST_ALIKE = 20
COUNTED_AGAIN = "the number of pieces corrected"
# Who rests on what a line is thought to be worth: told the ids of lines where it was put right.
worth_corrected: Registry[Callable[[list[int]], None]] = Registry("worth of lines")


@transaction.atomic
def record_lot(person: Person, said: LotDetails, lines: Sequence[LineDetails]) -> Lot:
    """Record a lot that was bought, with its lines and charges, and post what was paid."""
    require(person, "record a lot")
    _check_source(said)
    landed = lot_charges.work_out(said.charges, said.rate, said.currency)
    if not lines:
        raise Refused("A lot has at least one line: what did you buy?")
    shop_settings.take_turns()
    supplier = _supplier(said.supplier_name)
    if not said.another:
        _refuse_the_same(supplier, said, landed, sum(line.quantity for line in lines))
    number = (Lot.objects.aggregate(last=Max("number"))["last"] or 0) + 1
    lot = Lot.objects.create(number=number, supplier=supplier, **said.header)
    for position, line in enumerate(lines, 1):
        LotLine.objects.create(lot=lot, position=position, **line.values)
    _post_purchase(person, lot, landed)
    _say_priced(lot)
    history.record(
        person,
        "buying.record_lot",
        HistoryEntry.Subject.LOT,
        lot.pk,
        f"Recorded {lot.code}: {len(lines)} {'line' if len(lines) == 1 else 'lines'}, {landed.total} landed",
        lines=len(lines),
        landed=landed.total,
    )
    return lot


def _refuse_the_same(supplier: Supplier, said: LotDetails, landed: LandedCost, pieces: int) -> None:
    """As many pieces, from the same supplier, on the same day, for as much: two people may have recorded one lot."""
    rows = Lot.objects.filter(supplier=supplier, bought_on=said.bought_on).annotate(pieces=Sum("lines__quantity"))
    for lot in rows.filter(pieces=pieces)[:MOST_ALIKE]:
        if sum(row.base for row in lot_charges.current(lot)) == landed.total:
            raise Refused(
                f"{lot.code}, {lot.title}, is as many pieces from {supplier} on that day, for as much. "
                "Tick the box if this is another.",
                "another",
            )


@transaction.atomic
def correct_lot(
    person: Person, lot: Lot, seen_version: int, said: LotDetails, lines: Sequence[LineDetails] | None
) -> Lot:
    """Put a lot right. If what was paid changes, the old posting is reversed, and a sharing is done again.

    `lines` None leaves the lines as they are.
    """
    require(person, "correct a lot")
    _check_source(said)
    landed = lot_charges.work_out(said.charges, said.rate, said.currency)
    header = {**said.header, "supplier": _supplier(said.supplier_name)}
    told = bool(history.says_otherwise(lot, header))
    save_versioned(lot, seen_version, header)
    numbers = _numbers(lot)
    if lines is not None:
        told |= _save_lines(lot, lines)
    before = [(lot_charges.as_typed(row), row.base) for row in lot_charges.current(lot)]
    after = [(worked.charge, worked.base) for worked in landed.charges]
    if before != after:
        last = current_sharing(lot)
        if last and last.posting:
            reverse_posting(person, last.posting, "charges corrected")
            Sharing.objects.filter(pk=last.pk).update(posting=None)
        _post_again(person, lot, landed, "charges corrected")
        carry_on(person, lot, "charges corrected")
    elif numbers.items() - _numbers(lot).items():
        carry_on(person, lot, COUNTED_AGAIN)
    elif lot.posting and lot.posting.happened_on != lot.bought_on:
        _post_again(person, lot, landed, "bought on another day")
    if _say_priced(lot) or before != after:
        charged.send(sender=Lot, lot=lot, person=person)
    if told or before != after:
        words = f"Corrected {lot.code}: {landed.total} landed"
        history.record(person, "buying.correct_lot", HistoryEntry.Subject.LOT, lot.pk, words)
    return lot


@transaction.atomic
def correct_line(person: Person, line: LotLine, said: LineDetails) -> None:
    """Put one line right: what it is, how many, the claim, weight and worth. The cost stays as it was shared, but for
    another number of pieces it is shared again. Whoever has the whole lot open is told."""
    require(person, "correct a lot")
    lot = lock_row(Lot.objects.all(), line.lot)
    line = lock_row(LotLine.objects.select_related("lot"), line)
    if not history.says_otherwise(line, said.values):
        return
    save_versioned(lot, lot.version, {})
    if said.quantity < line.received + line.not_come:
        raise Refused(f"{_told(line)}; the line can’t be for fewer.", "quantity")
    named = f"Corrected line {line.position}, {said.description}"
    history.changed(person, "buying.correct_line", HistoryEntry.Subject.LOT, line.lot_id, named, line, said.values)
    LotLine.objects.filter(pk=line.pk).update(**said.values)
    _tell_worth({line.pk} if said.worth_likely != line.worth_likely else set())
    if said.quantity != line.quantity:
        carry_on(person, lot, COUNTED_AGAIN)


def _post_again(person: Person, lot: Lot, landed: LandedCost, why: str) -> None:
    """Both count on the day it was bought, or was thought to be: no other day costs anything by it."""
    if lot.posting:
        reverse_posting(person, lot.posting, why, lot.posting.happened_on)
    _post_purchase(person, lot, landed)


def _post_purchase(person: Person, lot: Lot, landed: LandedCost) -> None:
    lot_charges.replace(lot, landed)
    legs = []
    for worked in landed.charges:
        kind = EntryKind.PURCHASE if worked.charge.kind is ChargeKind.PRICE else EntryKind.CHARGE
        legs.append(Leg(Account.LOT, lot.pk, kind, worked.base, lot.pk))
        legs.append(Leg(Account.CASH, 0, kind, -worked.base, lot.pk))
    posting = post(person, f"{lot.code} {lot.title}", legs, lot.bought_on)
    Lot.objects.filter(pk=lot.pk).update(posting=posting, landed_total=landed.total)
    lot.refresh_from_db()


def _say_priced(lot: Lot) -> bool:
    """Whether what was paid for it is recorded by now; answers whether that is new."""
    priced, was = lot_charges.are_priced(lot), lot.priced
    Lot.objects.filter(pk=lot.pk).update(priced=priced)
    lot.priced = priced
    return priced != was


def _save_lines(lot: Lot, lines: Sequence[LineDetails]) -> bool:
    """Whether any says otherwise than it stood."""
    kept, moved, changed = {line.pk: line for line in lot.lines.select_for_update()}, set[int](), False
    for position, line in enumerate(lines, 1):
        row = kept.pop(line.id, None) if line.id else None
        new = {"position": position, **line.values}
        changed = changed or row is None or any(getattr(row, name) != value for name, value in new.items())
        if row is None:
            LotLine.objects.create(lot=lot, position=position, **line.values)
            continue
        if line.quantity < row.received + row.not_come:
            raise Refused(f"{_told(row)}; the line can’t be for fewer.")
        LotLine.objects.filter(pk=row.pk).update(**new)
        if line.worth_likely != row.worth_likely:
            moved.add(row.pk)
    for row in kept.values():
        if row.received or row.shares.exists():
            raise Refused(f"“{row.description}” was received or carries cost already; it can’t be taken off the lot.")
        row.delete()
        changed = True
    _tell_worth(moved)
    return changed


def _numbers(lot: Lot) -> dict[int, int]:
    return dict(lot.lines.values_list("pk", "quantity"))


def _told(line: LotLine) -> str:
    missing = f" and {line.not_come} said not to come" if line.not_come else ""
    return f"{line.received} of “{line.description}” were received{missing} already"


def _tell_worth(lines: set[int]) -> None:
    for told in worth_corrected.values() if lines else ():
        told(sorted(lines))


@transaction.atomic
def name_supplier(person: Person, supplier: Supplier, name: str, place: str, together: bool = False) -> Supplier:
    """Put right what a supplier is called, and where. One that is there by that name already is the same one where
    `together` says so: then its lots and plans, and what they turned out to be, are one record."""
    require(person, "correct a lot")
    supplier = lock_row(Supplier.objects.all(), supplier)
    other = Supplier.objects.select_for_update().filter(name=name).exclude(pk=supplier.pk).first()
    if other is not None and not together:
        raise Refused(f"There is a {other.name} already. Tick the box if they are the same.", "together")
    lots = list(supplier.lots.order_by("pk"))
    if other is None:
        shop, named = HistoryEntry.Subject.SHOP, f"Supplier {name}"
        history.changed(person, "buying.name_supplier", shop, 0, named, supplier, {"place": place})
        Supplier.objects.filter(pk=supplier.pk).update(name=name, place=place)
    else:
        supplier.lots.update(supplier=other)
        supplier.plans.update(supplier=other)
        supplier.delete()
    if name != supplier.name:
        for lot in lots:
            words = f"Supplier: {name}, was {supplier.name}"
            history.record(person, "buying.name_supplier", HistoryEntry.Subject.LOT, lot.pk, words)
    return other or supplier


def _supplier(name: str) -> Supplier:
    return Supplier.objects.get_or_create(name=name.strip())[0]


def _check_source(said: LotDetails) -> None:
    for name in ("bought_on", "paid_on", "arrived_on"):
        refuse_to_come(getattr(said, name), name)
    priced = any(charge.kind is ChargeKind.PRICE and charge.amount for charge in said.charges)
    if said.source_kind == "custody":
        if not said.owner_name:
            raise Refused("In custody: whose is it? Type the owner’s name.", "owner_name")
        if priced:
            raise Refused("A lot in custody has no price: it stays its owner’s.", "charges")
    if said.source_kind == "donation" and priced:
        raise Refused("A donation has no price. Leave it empty, or choose another source.", "charges")
