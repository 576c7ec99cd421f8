"""Parcels: begun, measured, packed step by step, closed, sent, arrived; broken ones claimed for."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from pathlib import PurePath

from django.db import transaction

from core.machine.casing import FormFactor
from core.machine.measures import size_doubt, weight_doubt
from core.money import ZERO, allocate
from core.selling.packing import Moment, closed_doubt, kg
from stations.common import clock
from stations.common.files import let_go
from stations.common.happened import day_said, moment_on
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.dispatch import packing, receipts
from stations.dispatch.models import BoxSize, Carrier, Parcel, ParcelItem, ParcelPhoto
from stations.ledger.models import Account, EntryKind, Posting
from stations.ledger.services import Leg, post
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.selling.models import Sale
from stations.units import picture_files, stages
from stations.units.models import Unit

UNIT = HistoryEntry.Subject.UNIT


@dataclass(frozen=True)
class Measured:
    """How large a thing is in mm and how heavy in g, None where nobody measured; the zone it goes to, and where."""

    length: int | None
    width: int | None
    height: int | None
    weight_g: int | None
    zone: str
    address: str


def parcel_of(sale: Sale) -> Parcel | None:
    item = ParcelItem.objects.filter(sale=sale).select_related("parcel").first()
    return item.parcel if item else None


@transaction.atomic
def begin(person: Person, sale: Sale) -> Parcel:
    """Begin to pack what was sold; what was sold with it as a bundle goes with it. Pressed twice is once."""
    require(person, "pack a parcel")
    sales = _held(receipts.together(sale))
    if there := parcel_of(sale):
        return there
    for one in sales:
        if not one.stands:
            raise Refused(f"The sale of {one.unit.tag} ended: {one.ended_words}.")
        if one.sent_at:
            raise Refused(f"{one.unit.tag} was sent already.")
    model = sale.unit.model if len(sales) == 1 else None
    width, height, depth = (model and model.size) or (None, None, None)
    receipt = receipts.receipt_of(sale)
    parcel = Parcel.objects.create(
        address=receipt.buyer if receipt and "\n" in receipt.buyer else "",
        length=width,
        width=depth,
        height=height,
        begun_at=clock.now(),
        begun_by=person,
    )
    free = [one for one in sales if not ParcelItem.objects.filter(sale=one).exists()]
    ParcelItem.objects.bulk_create(ParcelItem(parcel=parcel, sale=one) for one in free)
    for unit_id in units_in(parcel):
        history.record(person, "dispatch.begin", UNIT, unit_id, "Packing begun")
    return parcel


@transaction.atomic
def measure(person: Person, parcel: Parcel, seen_version: int, found: Measured) -> None:
    """How large and heavy it is as it stands, where it goes."""
    require(person, "pack a parcel")
    parcel = _open(parcel)
    _refuse_other_units(parcel, found)
    # Where its buyer lives is wiped one day; the story says only that it is another place.
    told = {name: value for name, value in vars(found).items() if name != "address"}
    for unit_id in units_in(parcel):
        history.changed(person, "dispatch.measure", UNIT, unit_id, "Parcel", parcel, told)
        if parcel.address not in {"", found.address}:
            history.record(person, "dispatch.measure", UNIT, unit_id, "The parcel goes to another address")
    save_versioned(parcel, seen_version, vars(found))
    refresh(parcel)


def _refuse_other_units(parcel: Parcel, found: Measured) -> None:
    """What was typed in centimetres, or in kilograms."""
    if not (found.length and found.width and found.height):
        return
    edges = (found.length, found.width, found.height)
    shapes = [FormFactor(item.sale.unit.form_factor) for item in parcel.items.select_related("sale__unit")]
    if doubt := next(filter(None, (size_doubt(shape, edges) for shape in shapes)), ""):
        raise Refused(doubt, "length")
    if found.weight_g and (doubt := weight_doubt(edges, found.weight_g)):
        raise Refused(doubt, "weight_g")


@transaction.atomic
def tick(person: Person, parcel: Parcel, key: str) -> None:
    """A step is done, or after all not."""
    require(person, "pack a parcel")
    parcel = _open(parcel)
    step = next((one for one in packing.plan_of(parcel).steps if one.key == key), None)
    if step is None:
        raise Refused("There is no such step for this parcel any more.")
    if step.step.picture:
        raise Refused("It is done by its picture.")
    if step.step.asks:
        raise Refused("Say what is in it: then what is to be done about it stands there.")
    done = dict(parcel.done)
    if done.pop(key, None) is None:
        done[key] = person.name
    Parcel.objects.filter(pk=parcel.pk).update(done=done, version=parcel.version + 1)


@transaction.atomic
def add_pictures(person: Person, parcel: Parcel, moment: str, files: Iterable) -> list[str]:
    """Keep pictures of the packing, or of damage; answers what is wrong with those that were not kept."""
    require(person, "pack a parcel")
    if moment not in set(Moment):
        raise Refused("Say what the picture shows.")
    parcel, complaints, kept = held(parcel), [], 0
    if moment != Moment.DAMAGE and parcel.closed_at:
        raise Refused("The parcel is closed: what is in it can’t be seen any more.")
    for file in files:
        name = PurePath(file.name or "picture").name[:120]
        try:
            if file.size > picture_files.MOST_BYTES:
                raise picture_files.BadPicture("larger than 25 MB")
            stored = picture_files.store(file.read())
        except picture_files.BadPicture as problem:
            complaints.append(f"{name} was not taken: {problem}")
            continue
        facts = {"original_name": name, "added_at": clock.now(), "added_by": person}
        ParcelPhoto.objects.get_or_create(parcel=parcel, moment=moment, sha256=stored.sha256, defaults=facts)
        kept += 1
    if kept:
        what = Moment(moment).label
        for unit_id in units_in(parcel):
            history.record(
                person, "dispatch.add_pictures", UNIT, unit_id, f"{kept} picture{'s' if kept > 1 else ''}: {what}"
            )
    return complaints


@transaction.atomic
def drop_picture(person: Person, photo: ParcelPhoto) -> None:
    """A wrong picture of an open parcel, or of damage: it goes with its file, unless it is elsewhere too."""
    require(person, "pack a parcel")
    parcel = held(photo.parcel)
    if photo.moment != Moment.DAMAGE and parcel.closed_at:
        raise Refused("The parcel is closed: what is in it can’t be seen any more.")
    _drop(photo)
    what = Moment(photo.moment).label
    for unit_id in units_in(parcel):
        history.record(person, "dispatch.drop_picture", UNIT, unit_id, f"A wrong picture taken off: {what}")


def _drop(photo: ParcelPhoto) -> None:
    ParcelPhoto.objects.filter(pk=photo.pk).delete()
    let_go(photo.sha256, *picture_files.both_of([photo.sha256]))


@transaction.atomic
def close(person: Person, parcel: Parcel, box: BoxSize, inner: BoxSize | None, packed_g: int) -> None:
    """Close the parcel: nothing may speak against sending it, every step is done, and it was weighed."""
    require(person, "pack a parcel")
    parcel = _open(parcel)
    plan = packing.plan_of(parcel)
    if plan.refusals:
        unit, why = plan.refusals[0]
        raise Refused(f"{unit.tag} may not be sent: {why.words}. {why.instead}")
    if plan.left:
        raise Refused(f"Not yet: {plan.next_step.step.words if plan.next_step else ''}.")
    if not parcel.zone:
        raise Refused("Keep its zone first: carriers’ prices go by it, and a closed parcel is not changed any more.")
    if plan.double and inner is None:
        raise Refused("Two boxes for this: choose the inner one.", "inner")
    if inner and not all(a <= b for a, b in zip(sorted(inner.outer.edges), sorted(box.inner.edges), strict=True)):
        raise Refused("The inner box does not go into the outer one.", "inner")
    least = (parcel.weight_g or 0) + box.weight_g + (inner.weight_g if inner else 0)
    if doubt := closed_doubt(box.box, least, packed_g):
        raise Refused(doubt, "packed_g")
    Parcel.objects.filter(pk=parcel.pk).update(
        box=box, inner_box=inner, packed_g=packed_g, closed_at=clock.now(), version=parcel.version + 1
    )
    for unit_id in units_in(parcel):
        history.record(person, "dispatch.close", UNIT, unit_id, f"Packed in {box.name}, {kg(packed_g)} kg")
    refresh(parcel)


@transaction.atomic
def reopen(person: Person, parcel: Parcel) -> None:
    """Open it again before it is sent; the picture of it packed has to be taken anew."""
    require(person, "pack a parcel")
    parcel = held(parcel)
    if not parcel.closed_at or parcel.sent_at:
        raise Refused("It is open, or was sent.")
    for photo in parcel.photos.filter(moment=Moment.PACKED):
        _drop(photo)
    done = {key: who for key, who in parcel.done.items() if not key.endswith(("-close", "-papers", "-gap"))}
    Parcel.objects.filter(pk=parcel.pk).update(
        closed_at=None, packed_g=None, box=None, inner_box=None, done=done, version=parcel.version + 1
    )
    for unit_id in units_in(parcel):
        history.record(person, "dispatch.reopen", UNIT, unit_id, "Parcel opened again")
    refresh(parcel)


@transaction.atomic
def send(
    person: Person,
    parcel: Parcel,
    carrier: Carrier,
    price: Decimal,
    tracking: str = "",
    unpaid: str = "",
    on: date | None = None,
) -> None:
    """It goes, or went on a day before. What it cost more or less than was reckoned with is posted; unpaid things go
    only with a reason."""
    require(person, "send a parcel")
    parcel, tracking = held(parcel), within(tracking.strip(), 60, "tracking")
    plan = packing.plan_of(parcel)
    if parcel.sent_at:
        raise Refused("It was sent already.")
    if not parcel.closed_at:
        raise Refused("Close the parcel first.")
    if price < 0:
        raise Refused("This may not be below 0.", "price")
    _sendable(plan, unpaid)
    to_send = plan.to_send()
    tariff = next((t for row, t in packing.tariffs(parcel.zone) if row.pk == carrier.pk), None)
    if to_send and tariff:
        found, refused = packing.quotes([tariff], to_send)
        if refused:
            raise Refused(f"{carrier} does not take it: {refused[0].words}.", "carrier")
        cover = found[0].cover
    else:
        cover = None
    when = moment_on(on, max(sale.sold_at for sale in plan.sales), "sold")
    _go(person, parcel, plan.sales, price, when, carrier=carrier, tracking=tracking, cover=cover)
    why = f", unpaid: {unpaid}" if unpaid else ""
    words = f"Sent with {carrier}{', ' + tracking if tracking else ''}{why}{day_said(when)}"
    for unit_id in units_in(parcel):
        history.record(person, "dispatch.send", UNIT, unit_id, words)
    refresh(parcel)


@transaction.atomic
def name_tracking(person: Person, parcel: Parcel, tracking: str) -> None:
    """The carrier's number of what was sent: it came later, or another was typed."""
    require(person, "send a parcel")
    parcel, tracking = held(parcel), within(tracking.strip(), 60, "tracking")
    if not parcel.sent_at or parcel.by_hand:
        raise Refused("It was not sent with a carrier.")
    for unit_id in units_in(parcel):
        history.changed(person, "dispatch.name_tracking", UNIT, unit_id, "Parcel", parcel, {"tracking": tracking})
    Parcel.objects.filter(pk=parcel.pk).update(tracking=tracking, version=parcel.version + 1)
    Sale.objects.filter(parcel_item__parcel=parcel).update(tracking=tracking)


@transaction.atomic
def hand_over(person: Person, sale: Sale, unpaid: str = "", on: date | None = None) -> Parcel:
    """The buyer takes it with him, or did on a day before: no parcel, no postage; the sale is closed."""
    require(person, "send a parcel")
    sale = _held([sale])[0]
    parcel = parcel_of(sale)
    if sale.sent_at or not sale.stands:
        raise Refused("There is nothing to hand over: it was sent, or the sale ended.")
    if parcel is None:
        parcel = Parcel.objects.create(begun_at=clock.now(), begun_by=person)
        ParcelItem.objects.create(parcel=parcel, sale=sale)
    plan = packing.plan_of(parcel)
    if len(plan.sales) > 1:
        raise Refused("It is packed with others: send the parcel.")
    _sendable(plan, unpaid)
    when = moment_on(on, sale.sold_at, "sold")
    _go(person, parcel, plan.sales, ZERO, when, by_hand=True)
    for unit_id in units_in(parcel):
        history.record(person, "dispatch.hand_over", UNIT, unit_id, f"Handed over in person{day_said(when)}")
    _arrived(person, parcel, on)
    return parcel


def _sendable(plan: packing.PackPlan, unpaid: str) -> None:
    """Refused where something speaks against sending it, or it is not paid and nobody says why it goes anyway."""
    if plan.refusals:
        unit, why = plan.refusals[0]
        raise Refused(f"{unit.tag} may not be sent: {why.words}. {why.instead}")
    for sale in plan.sales:
        if not sale.stands:
            raise Refused(f"The sale of {sale.unit.tag} ended: {sale.ended_words}. Take it out of the parcel.")
        if sale.owed and not sale.channel.answers_itself and not unpaid.strip():
            raise Refused(
                f"{sale.owed} is still open for {sale.unit.tag}: take the payment, or say why it goes.", "unpaid"
            )
    within(unpaid, 160, "unpaid")


def _go(
    person: Person,
    parcel: Parcel,
    sales: list[Sale],
    price: Decimal,
    when: datetime,
    *,
    carrier: Carrier | None = None,
    tracking: str = "",
    cover: Decimal | None = None,
    by_hand: bool = False,
) -> None:
    """Write that it went, and post what it cost beside what was reckoned with, shared by what each was sold for."""
    shares = allocate(price, [sale.price for sale in sales])
    more = [share - sale.postage for share, sale in zip(shares, sales, strict=True)]
    posting = _posted(person, f"postage of {parcel}", EntryKind.POSTAGE, sales, more, clock.day_of(when))
    Parcel.objects.filter(pk=parcel.pk).update(
        carrier=carrier,
        price=price,
        cover=cover,
        tracking=tracking,
        by_hand=by_hand,
        sent_at=when,
        posting=posting,
        version=parcel.version + 1,
    )
    for sale, amount in zip(sales, more, strict=True):
        ParcelItem.objects.filter(sale=sale).update(postage_more=amount)
        Sale.objects.filter(pk=sale.pk).update(sent_at=when, tracking=tracking)


def _posted(
    person: Person, document: str, kind: EntryKind, sales: list[Sale], amounts: list[Decimal], on: date | None = None
) -> Posting | None:
    """Cost on units, out of cash (below 0: the other way)."""
    legs = [
        Leg(Account.UNIT, sale.unit_id, kind, amount, sale.unit.lot_id)
        for sale, amount in zip(sales, amounts, strict=True)
    ]
    return post(person, document, [*legs, Leg(Account.CASH, 0, kind, -sum(amounts, ZERO))], on)


@transaction.atomic
def arrived(person: Person, parcel: Parcel, on: date | None = None) -> None:
    """It is there, since today or a day before: what was in it is closed out."""
    require(person, "close a sale")
    _arrived(person, parcel, on)


def _arrived(person: Person, parcel: Parcel, on: date | None) -> None:
    parcel = held(parcel)
    if parcel.sent_at is None or parcel.arrived_at:
        raise Refused("It is not sent yet, or closed already.")
    if parcel.lost:
        raise Refused("It is said to be lost on the way. Take that back first.")
    when = moment_on(on, parcel.sent_at, "sent")
    Parcel.objects.filter(pk=parcel.pk).update(arrived_at=when, version=parcel.version + 1)
    for sale in sales_in(parcel):
        _close(person, sale, when)


@transaction.atomic
def close_sale(person: Person, sale: Sale, on: date | None = None) -> None:
    """Close out what was sent, in a parcel of ours or before parcels were kept."""
    require(person, "close a sale")
    sale = _held([sale])[0]
    if parcel := parcel_of(sale):
        arrived(person, parcel, on)
        return
    if sale.sent_at is None or sale.closed_at:
        raise Refused("It is not sent yet, or closed already.")
    _close(person, sale, moment_on(on, sale.sent_at, "sent"))


def _close(person: Person, sale: Sale, when: datetime) -> None:
    Sale.objects.filter(pk=sale.pk, closed_at=None).update(closed_at=when)
    history.record(person, "dispatch.close", UNIT, sale.unit_id, f"Arrived; sale closed{day_said(when)}")
    stages.refresh(sale.unit)


@transaction.atomic
def broken(person: Person, parcel: Parcel, words: str, claimed: Decimal | None, lost: bool = False) -> None:
    """It arrived broken, or is `lost`: what was broken, and what is claimed for it; never more than it was covered for
    or worth."""
    require(person, "claim from a carrier")
    parcel, words = held(parcel), within(words.strip(), 600, "damage")
    if parcel.sent_at is None or parcel.by_hand:
        raise Refused("No carrier had it.")
    if not words and not lost:
        raise Refused("Say what was broken, as the buyer tells it.", "damage")
    if lost and parcel.arrived_at:
        raise Refused("It is said to have arrived. Where that is wrong, take that back first.", "lost")
    worth = sum((sale.price for sale in sales_in(parcel)), ZERO) + (parcel.price or ZERO)
    if claimed is not None and not ZERO < claimed <= worth:
        raise Refused(f"From 0.01 to {worth}: what it was sold for, and what sending it cost.", "claimed")
    Parcel.objects.filter(pk=parcel.pk).update(
        damage=words, lost=lost, damage_at=parcel.damage_at or clock.now(), claimed=claimed, version=parcel.version + 1
    )
    told = f"{'Lost' if lost else 'Broken'} on the way{': ' + words if words else ''}"
    for unit_id in units_in(parcel):
        history.record(person, "dispatch.broken", UNIT, unit_id, told)
    refresh(parcel)


@transaction.atomic
def claim_paid(person: Person, parcel: Parcel, amount: Decimal, on: date | None = None) -> None:
    """What the carrier paid for it, once, today or on a day before; shared by what each thing was sold for. 0: it pays
    nothing, or nothing is asked of it, and nobody waits for that any more."""
    require(person, "claim from a carrier")
    parcel = held(parcel)
    if parcel.damage_at is None or parcel.sent_at is None or (parcel.claimed is None and amount):
        raise Refused("Nothing was claimed for it.", "paid_back")
    if parcel.paid_back is not None:
        raise Refused(f"The carrier paid {parcel.paid_back} already.", "paid_back")
    if not ZERO <= amount <= (parcel.claimed or ZERO):
        raise Refused(f"From 0 to the {parcel.claimed} that was claimed.", "paid_back")
    day = clock.day_of(moment_on(on, parcel.sent_at, "sent"))
    sales = sales_in(parcel)
    parts = list(allocate(amount, [sale.price for sale in sales]))
    posting = _posted(person, f"claim for {parcel}", EntryKind.CLAIM, sales, [-part for part in parts], day)
    Parcel.objects.filter(pk=parcel.pk).update(paid_back=amount, claim_posting=posting, version=parcel.version + 1)
    for sale, part in zip(sales, parts, strict=True):
        ParcelItem.objects.filter(sale=sale).update(claim_part=part)
    told = f"{amount} paid by the carrier" if amount else "The carrier pays nothing"
    for unit_id in units_in(parcel):
        history.record(person, "dispatch.claim_paid", UNIT, unit_id, f"{told}{day_said(day)}")
    refresh(parcel)


def sales_in(parcel: Parcel) -> list[Sale]:
    return [item.sale for item in parcel.items.select_related("sale__unit", "sale__channel").order_by("id")]


def _held(sales: list[Sale]) -> list[Sale]:
    """Sales as they now are, held after their units."""
    for unit in sorted((sale.unit for sale in sales), key=lambda unit: unit.pk):
        lock_row(Unit.objects.all(), unit)
    return [lock_row(Sale.objects.select_related("unit__model", "channel"), sale) for sale in sales]


def held(parcel: Parcel) -> Parcel:
    """As it now is, held with the units and sales that are in it."""
    _held(sales_in(parcel))
    return lock_row(Parcel.objects.select_related("box", "inner_box"), parcel)


def _open(parcel: Parcel) -> Parcel:
    parcel = held(parcel)
    if parcel.closed_at or parcel.sent_at:
        raise Refused("The parcel is closed. Open it again first.")
    return parcel


def units_in(parcel: Parcel) -> list[int]:
    return list(parcel.items.values_list("sale__unit_id", flat=True))


def refresh(parcel: Parcel) -> None:
    stages.refresh(*(sale.unit for sale in sales_in(parcel)))
