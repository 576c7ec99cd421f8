"""What a buyer does: record a lot, put it right, share its cost."""

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction
from django.db.models import Max
from django.dispatch import Signal

from core.buying.landed import Charge, ChargeError, ChargeKind, LandedCost, landed_cost
from core.buying.share import Basis, ShareError, ShareLine, share_cost
from core.buying.share import Sharing as SharedCost
from stations.buying.models import LineShare, Lot, LotCharge, LotLine, Sharing, Supplier
from stations.ledger.models import Account, Kind
from stations.ledger.services import Leg, post, reverse
from stations.people import clock, history, shop
from stations.people.editing import save_versioned
from stations.people.models import HistoryEntry, Person, Role
from stations.people.permission import require
from stations.people.refusals import Refused

# Sent after a lot was shared or shared again, inside the transaction: intake moves the cost on to the units.
shared = Signal()

# The form field that states each charge, so that a refusal is shown where it can be put right.
FIELD_OF = {
    ChargeKind.PRICE: "price",
    ChargeKind.PREMIUM: "premium_percent",
    ChargeKind.PREMIUM_TAX: "premium_tax_percent",
    ChargeKind.FREIGHT: "freight",
    ChargeKind.DUTY: "duty_percent",
    ChargeKind.IMPORT_TAX: "import_tax_percent",
    ChargeKind.OTHER: "other",
}
# Far beyond any lot, and within what the columns of the books hold.
MOST_LANDED = 10**9
HEADER = ("title", "source_kind", "bought_on", "arrived_on", "currency", "rate", "owner_name", "note")


def work_out(data: dict) -> LandedCost:
    """The landed cost that a filled-in lot form comes to. Raises Refused at the field that is wrong."""
    charges = []
    for kind, field in FIELD_OF.items():
        value = data.get(field)
        if not value:
            continue
        percent = field.endswith("_percent")
        charges.append(Charge(kind, percent=value) if percent else Charge(kind, amount=value))
    try:
        landed = landed_cost(charges, data["rate"])
        if landed.total >= MOST_LANDED:
            raise Refused("That is more than the books can hold. Check the amounts and the rate.", "rate")
        return landed
    except ChargeError as problem:
        raise Refused(str(problem), FIELD_OF[problem.kind]) from problem
    except ValueError as problem:
        raise Refused(str(problem), "rate") from problem


@transaction.atomic
def record_lot(person: Person, data: dict, lines: Sequence[dict]) -> Lot:
    """Record a lot that was bought, with its lines and charges, and post what was paid."""
    require(person, Role.BUYER, to="record a lot")
    _check_source(data)
    landed = work_out(data)
    if not lines:
        raise Refused("A lot has at least one line: what did you buy?")
    shop.take_turns()
    number = (Lot.objects.aggregate(last=Max("number"))["last"] or 0) + 1
    lot = Lot.objects.create(
        number=number, supplier=_supplier(data["supplier_name"]), **{name: data[name] for name in HEADER}
    )
    for position, line in enumerate(lines, 1):
        LotLine.objects.create(lot=lot, position=position, **line)
    _post_purchase(person, lot, data, landed)
    history.record(
        person, HistoryEntry.Subject.LOT, lot.pk, f"Recorded {lot.code}: {len(lines)} lines, {landed.total} landed"
    )
    return lot


@transaction.atomic
def correct_lot(person: Person, lot: Lot, seen_version: int, data: dict, lines: Sequence[dict] | None) -> Lot:
    """Put a lot right. If what was paid changes, the old posting is reversed, and a sharing is done again.

    `lines` None leaves the lines as they are.
    """
    require(person, Role.BUYER, to="correct a lot")
    _check_source(data)
    landed = work_out(data)
    changes = {name: data[name] for name in HEADER}
    save_versioned(lot, seen_version, {**changes, "supplier": _supplier(data["supplier_name"])})
    if lines is not None:
        _save_lines(lot, lines)
    before = [(c.kind, c.foreign, c.base) for c in lot.charges.all()]
    if before != [(c.kind.value, c.foreign, c.base) for c in landed.charges]:
        last = current_sharing(lot)
        if last and last.posting:
            reverse(person, last.posting, "charges corrected")
        if lot.posting:
            reverse(person, lot.posting, "charges corrected")
        lot.charges.all().delete()
        _post_purchase(person, lot, data, landed)
        if last:
            Sharing.objects.filter(pk=last.pk).update(posting=None)
            share_lot(person, lot, Basis(last.basis))
    history.record(person, HistoryEntry.Subject.LOT, lot.pk, f"Corrected {lot.code}: {landed.total} landed")
    return lot


@transaction.atomic
def share_lot(person: Person, lot: Lot, basis: Basis) -> Sharing:
    """Share the landed cost over the lines; a sharing that stands is reversed first, never edited.

    Pieces that are sold or written off keep what they carry; only the rest is shared again.
    """
    require(person, Role.BUYER, to="share a lot’s cost")
    lot = Lot.objects.select_for_update().get(pk=lot.pk)
    lines = list(lot.lines.all())
    result, amounts, weights = shares_on(lot, lines, basis, kept_pieces(lot))
    last = current_sharing(lot)
    if last and last.posting:
        reverse(person, last.posting, "shared again")
    rows = [
        LineShare(line=line, weight=weight, amount=amount)
        for line, weight, amount in zip(lines, weights, amounts, strict=True)
    ]
    legs = [Leg(Account.LOT, lot.pk, Kind.ALLOCATION, -lot.landed_total, lot.pk)]
    legs += [Leg(Account.LINE, row.line_id, Kind.ALLOCATION, row.amount, lot.pk) for row in rows]
    posting = post(person, f"{lot.code} shared by {result.basis}", legs)
    sharing = Sharing.objects.create(
        lot=lot, basis=result.basis, note=result.note, when=clock.now(), who=person, posting=posting
    )
    for row in rows:
        row.sharing = sharing
    LineShare.objects.bulk_create(rows, batch_size=1000)
    again = "again " if last else ""
    history.record(person, HistoryEntry.Subject.LOT, lot.pk, f"Shared {lot.landed_total} {again}by {result.basis}")
    shared.send(sender=Lot, lot=lot, person=person)
    return sharing


def shares_on(
    lot: Lot, lines: Sequence[LotLine], basis: Basis, kept: Mapping[int, "Kept"]
) -> tuple[SharedCost, list[Decimal], list[Decimal]]:
    """What each line would carry on this basis, and with what weight; nothing is posted.

    Raises Refused when it can't be shared so.
    """
    left = [line for line in lines if line.quantity > kept[line.pk].pieces]
    if lines and not left:
        raise Refused("Everything of this lot is sold or written off; nothing is left to share.", "basis")
    to_share = lot.landed_total - sum((pieces.carried for pieces in kept.values()), Decimal(0))
    try:
        result = share_cost(to_share, [share_line(line, kept[line.pk].pieces) for line in left], basis)
    except ShareError as problem:
        raise Refused(str(problem), "basis") from problem
    fresh = {line.pk: part for line, part in zip(left, zip(result.shares, result.weights, strict=True), strict=True)}
    parts = [fresh.get(line.pk, (Decimal(0), Decimal(0))) for line in lines]
    amounts = [kept[line.pk].carried + amount for line, (amount, _) in zip(lines, parts, strict=True)]
    return result, amounts, [weight for _, weight in parts]


@dataclass(frozen=True)
class Kept:
    """Pieces of a line that keep what they carry, whatever happens to the rest."""

    pieces: int = 0
    carried: Decimal = Decimal(0)


# Told by intake, which knows the units: what of a lot's lines is sold or written off, by line.
keepers: list[Callable[[Lot], Mapping[int, Kept]]] = []


def kept_pieces(lot: Lot) -> Mapping[int, Kept]:
    """For every line of the lot, the pieces whose cost stands fast."""
    kept: dict[int, Kept] = defaultdict(Kept)
    for keeper in keepers:
        kept.update(keeper(lot))
    return kept


def share_line(line: LotLine, kept: int = 0) -> ShareLine:
    """A line as the sharing rule sees it, less the pieces that keep what they carry."""
    return ShareLine(
        line.quantity - kept, line.weight_kg, line.worth_low, line.worth_likely, line.worth_high, line.finish_cost
    )


def current_sharing(lot: Lot) -> Sharing | None:
    return lot.sharings.order_by("-id").first()


def _post_purchase(person: Person, lot: Lot, data: dict, landed: LandedCost) -> None:
    LotCharge.objects.bulk_create(
        LotCharge(
            lot=lot,
            kind=charge.kind,
            percent=_percent(data, charge.kind),
            foreign=charge.foreign,
            base=charge.base,
            how=charge.how,
        )
        for charge in landed.charges
    )
    legs = []
    for charge in landed.charges:
        kind = Kind.PURCHASE if charge.kind is ChargeKind.PRICE else Kind.CHARGE
        legs.append(Leg(Account.LOT, lot.pk, kind, charge.base, lot.pk))
        legs.append(Leg(Account.CASH, 0, kind, -charge.base, lot.pk))
    posting = post(person, f"{lot.code} {lot.title}", legs)
    Lot.objects.filter(pk=lot.pk).update(posting=posting, landed_total=landed.total)
    lot.refresh_from_db()


def _percent(data: dict, kind: ChargeKind) -> Decimal | None:
    field = FIELD_OF[kind]
    return data[field] if field.endswith("_percent") else None


def _save_lines(lot: Lot, lines: Sequence[dict]) -> None:
    kept = {line.pk: line for line in lot.lines.select_for_update()}
    for position, line in enumerate(lines, 1):
        values = {name: value for name, value in line.items() if name != "id"}
        row = kept.pop(line.get("id"), None)
        if row is None:
            LotLine.objects.create(lot=lot, position=position, **values)
            continue
        if values["quantity"] < row.received:
            raise Refused(f"{row.received} of “{row.description}” were received already; the line can’t be for fewer.")
        LotLine.objects.filter(pk=row.pk).update(position=position, **values)
    for row in kept.values():
        if row.received or row.shares.exists():
            raise Refused(f"“{row.description}” was received or carries cost already; it can’t be taken off the lot.")
        row.delete()


def _supplier(name: str) -> Supplier:
    return Supplier.objects.get_or_create(name=name.strip())[0]


def _check_source(data: dict) -> None:
    if data["source_kind"] == "custody":
        if not data["owner_name"]:
            raise Refused("In custody: whose is it? Type the owner’s name.", "owner_name")
        if data.get("price"):
            raise Refused("A lot in custody has no price: it stays its owner’s.", "price")
    if data["source_kind"] == "donation" and data.get("price"):
        raise Refused("A donation has no price. Leave it empty, or choose another source.", "price")
