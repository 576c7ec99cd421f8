"""What somebody has in hand leads to the thing: a code or a serial off a label, a tracking number off a slip, the name
of whoever rings up, a word of what it is called."""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from django.db.models import Case, QuerySet, When
from django.urls import reverse
from django.utils.timezone import localtime

from stations.bench import library
from stations.buying.models import BidPlan, Lot, Supplier
from stations.catalogue import recipes as book
from stations.catalogue.models import MachineModel, PartSheet
from stations.common.typed import whole_number
from stations.common.words import holds, words_in
from stations.dispatch.models import BoxSize, Carrier, Parcel, Receipt
from stations.floor.pages import PAGES
from stations.people.models import Person
from stations.selling.models import Bundle, Channel, Offer, Question, Reserved, Sale
from stations.stock.models import KnownGood, PartOrder, PartSeller, StockItem
from stations.units.models import Part, Unit
from stations.workshop.models import Job, Knowledge

# Of each sort; who sees more than these types another word.
SHOWN = 8


@dataclass(frozen=True)
class Found:
    """One thing: its code where it has one, what it is called, what else tells it from others of the name."""

    address: str
    title: str
    told: str = ""
    code: str = ""


@dataclass(frozen=True)
class Group:
    """What was found of one sort; `more` than is shown."""

    label: str
    rows: tuple[Found, ...]
    more: bool


def exactly(words: str) -> str | None:
    """Where the one thing is that goes by this very code, number or drawer; nothing where none or several do."""
    found = _by_code(words) or _on_paper(words)
    if not found:
        found = [reverse("floor:unit", args=[unit.number]) for unit in Unit.objects.filter(serial__iexact=words)[:2]]
        found += [_part(part).address for part in Part.objects.filter(serial__iexact=words, gone_at=None)[:2]]
        found += [_parcel(row).address for row in Parcel.objects.filter(tracking__iexact=words)[:2]]
        found += [_stock(row).address for row in StockItem.objects.filter(drawer=words, in_use=True)[:2]]
        found += [_part(row).address for row in Part.objects.filter(drawer=words, gone_at=None)[:2]]
    return found[0] if len(found) == 1 else None


def _by_code(words: str) -> list[str]:
    letter, _, figures = words.upper().partition("-")
    number = whole_number(figures)
    if number is None:
        return []
    if re.fullmatch(r"\d{4}", letter):
        return [_receipt(row).address for row in Receipt.objects.filter(year=int(letter), number=number)]
    if letter not in CODES:
        return []
    numbered, of = CODES[letter]
    return [of(row).address for row in numbered(number)]


def _on_paper(words: str) -> list[str]:
    """What the codes say that are printed for others: on the label of a parcel without a tracking number, and on a card
    of the public shop, its address there."""
    if parcel := re.fullmatch(r"parcel (\d{1,9})", words, re.IGNORECASE | re.ASCII):
        return [_parcel(row).address for row in Parcel.objects.filter(pk=int(parcel[1]))]
    if card := re.fullmatch(r"https?://[^/\s]+/shop/W-(\d{1,9})/", words, re.IGNORECASE | re.ASCII):
        return [reverse("floor:unit", args=[unit.number]) for unit in Unit.objects.filter(number=int(card[1]))]
    return []


def _drawer_first(words: str) -> Case:
    """What lies in the drawer of that very name before what holds the words otherwise."""
    return Case(When(drawer=words, then=0), default=1)


def groups(words: str) -> list[Group]:
    """Everything but units that holds the words, by sort, in the order of the work; a query for each sort."""
    found = [_group(label, rows(words), of) for label, rows, of in SORTS]
    recipes = (Found(reverse("catalogue:recipe", args=[one.code]), one.title) for one in book.recipes().values())
    checks = (Found(reverse("bench:check", args=[one.code]), one.title) for one in library.library())
    pages = [Found(reverse(name), title, more) for name, title, more in PAGES]
    found += [
        _group("Recipes", (one for one in recipes if holds(words, one.title))),
        _group("Checks", (one for one in checks if holds(words, one.title))),
        _group("Pages", (one for one in pages if holds(words, f"{one.title} {one.told}"))),
    ]
    return [group for group in found if group.rows]


def _group(label: str, rows: Iterable, of: Callable[..., Found] = lambda found: found) -> Group:
    some = list(rows[: SHOWN + 1]) if isinstance(rows, QuerySet) else list(rows)
    return Group(label, tuple(of(row) for row in some[:SHOWN]), len(some) > SHOWN)


def _lot(row: Lot) -> Found:
    return Found(reverse("buying:lot", args=[row.number]), row.title, str(row.supplier), row.code)


def _plan(row: BidPlan) -> Found:
    return Found(reverse("buying:plan", args=[row.number]), row.title, code=row.code)


def _supplier(row: Supplier) -> Found:
    return Found(reverse("buying:supplier", args=[row.pk]), row.name, row.place)


def _job(row: Job) -> Found:
    return Found(reverse("workshop:job", args=[row.pk]), row.title, row.unit.title, row.unit.tag.short)


def _part(row: Part) -> Found:
    serial = f"{row.serial}, " if row.serial else ""
    return Found(reverse("workshop:part", args=[row.number]), row.name, f"{serial}{row.place_words}", row.code)


def _stock(row: StockItem) -> Found:
    told = f"{row.get_condition_display()}, drawer {row.drawer or '–'}, {row.free_amount} free"
    told = told if row.in_use else f"{row.get_condition_display()}, put away"
    return Found(reverse("stock:item", args=[row.pk]), row.name, told)


def _order(row: PartOrder) -> Found:
    return Found(
        reverse("stock:order", args=[row.number]), str(row.seller), f"ordered {row.ordered_on:%-d %b %Y}", row.code
    )


def _known_good(row: KnownGood) -> Found:
    return Found(f"{reverse('stock:known-good-one', args=[row.pk])}#one", row.name, f"stands in for {row.stands_in}")


def _known(row: Knowledge) -> Found:
    if row.unit:
        return Found(f"{reverse('workshop:known', args=[row.unit.number])}?one={row.pk}", row.title, str(row.unit.tag))
    if row.part:
        there = reverse("workshop:known-single", args=[row.part.number])
        return Found(f"{there}?one={row.pk}", row.title, f"{row.part.code} {row.part.name}")
    if row.item:
        return Found(f"{reverse('workshop:known-part', args=[row.item_id])}?one={row.pk}", row.title, row.item.name)
    return Found(reverse("catalogue:model", args=[row.model_id]), row.title, f"of every {row.model}")


def _model(row: MachineModel) -> Found:
    return Found(reverse("catalogue:model", args=[row.pk]), str(row), row.get_form_factor_display())


def _sheet(row: PartSheet) -> Found:
    return Found(reverse("catalogue:part-sheet", args=[row.pk]), row.name)


def _sale(row: Sale) -> Found:
    told = f"{row.unit.title}, sold {localtime(row.sold_at):%-d %b %Y} for {row.price}"
    return Found(reverse("dispatch:sale", args=[row.pk]), row.buyer, told, row.unit.tag.short)


def _offer(row: Offer) -> Found:
    told = f"{row.amount} for {row.unit.title}, {row.get_status_display()}"
    return Found(f"{reverse('selling:unit', args=[row.unit.number])}#offers", row.buyer, told, row.unit.tag.short)


def _question(row: Question) -> Found:
    there = f"{reverse('selling:unit', args=[row.unit.number])}#offers"
    return Found(there, row.who, f"asked: {row.words[:60]}", row.unit.tag.short)


def _held(row: Reserved) -> Found:
    told = f"{row.unit.title}, held until {localtime(row.until):%-d %b, %H:%M}"
    return Found(reverse("selling:unit", args=[row.unit.number]), row.buyer, told, row.unit.tag.short)


def _bundle(row: Bundle) -> Found:
    return Found(reverse("selling:bundle", args=[row.pk]), row.title)


def _receipt(row: Receipt) -> Found:
    buyer = row.buyer.splitlines()[0] if row.buyer else ""
    told = f"{row.get_kind_display()}, {localtime(row.issued_at):%-d %b %Y}, {row.total}"
    line = next(iter(row.lines.all()), None)
    there = f"{reverse('dispatch:sale', args=[line.sale_id])}#papers" if line else reverse("dispatch:receipts")
    return Found(there, buyer or told, told if buyer else "", row.code)


def _parcel(row: Parcel) -> Found:
    sent = f"sent {localtime(row.sent_at):%-d %b %Y}" if row.sent_at else "not sent yet"
    return Found(reverse("dispatch:parcel", args=[row.pk]), row.tracking or str(row), sent)


def _channel(row: Channel) -> Found:
    return Found(reverse("selling:channel", args=[row.pk]), row.name, row.get_kind_display())


def _carrier(row: Carrier) -> Found:
    return Found(reverse("dispatch:carrier", args=[row.pk]), row.name)


def _box(row: BoxSize) -> Found:
    return Found(reverse("dispatch:box", args=[row.pk]), row.name, f"inside {row.inner}")


def _person(row: Person) -> Found:
    return Found(reverse("people:person", args=[row.pk]), row.name)


def _seller(row: PartSeller) -> Found:
    return Found(reverse("stock:seller", args=[row.pk]), row.name)


# By the letter that a code begins with; units have tags.
CODES: dict[str, tuple[Callable[[int], QuerySet], Callable[..., Found]]] = {
    "L": (lambda number: Lot.objects.filter(number=number).select_related("supplier"), _lot),
    "B": (lambda number: BidPlan.objects.filter(number=number), _plan),
    "P": (lambda number: Part.objects.filter(number=number).select_related("unit"), _part),
    "O": (lambda number: PartOrder.objects.filter(number=number).select_related("seller"), _order),
}
# Label, the rows that hold the words, and one of them as it is shown.
SORTS: tuple[tuple[str, Callable[[str], QuerySet], Callable[..., Found]], ...] = (
    ("Planned bids", lambda w: BidPlan.objects.filter(words_in(w, "title")).order_by("-number"), _plan),
    (
        "Lots",
        lambda w: (
            Lot.objects.filter(words_in(w, "title", "supplier__name")).select_related("supplier").order_by("-number")
        ),
        _lot,
    ),
    ("Suppliers", lambda w: Supplier.objects.filter(words_in(w, "name", "place")), _supplier),
    (
        "Open jobs",
        lambda w: Job.objects.filter(words_in(w, "title"), done_at=None).select_related("unit").order_by("-pk"),
        _job,
    ),
    (
        "Single parts",
        lambda w: (
            Part.objects.filter(words_in(w, "name", "serial", "drawer"))
            .select_related("unit")
            .order_by(_drawer_first(w), "-number")
        ),
        _part,
    ),
    (
        "Stock",
        lambda w: StockItem.objects.filter(words_in(w, "found_by", "drawer")).order_by(_drawer_first(w), "name"),
        _stock,
    ),
    ("Orders", lambda w: PartOrder.objects.filter(words_in(w, "seller__name")).select_related("seller"), _order),
    ("Sellers of parts", lambda w: PartSeller.objects.filter(words_in(w, "name")), _seller),
    ("Known-good shelf", lambda w: KnownGood.objects.filter(words_in(w, "name"), in_use=True), _known_good),
    (
        "What is known",
        lambda w: Knowledge.objects.filter(words_in(w, "title")).select_related("unit", "part", "item", "model"),
        _known,
    ),
    ("Models", lambda w: MachineModel.objects.filter(words_in(w, "maker", "name")), _model),
    ("Sheets of parts", lambda w: PartSheet.objects.filter(words_in(w, "name")), _sheet),
    ("Sold to", lambda w: Sale.objects.filter(words_in(w, "buyer")).select_related("unit").order_by("-pk"), _sale),
    ("Offers", lambda w: Offer.objects.filter(words_in(w, "buyer", "contact")).select_related("unit"), _offer),
    ("Questions", lambda w: Question.objects.filter(words_in(w, "who", "contact")).select_related("unit"), _question),
    (
        "Held for",
        lambda w: Reserved.objects.filter(words_in(w, "buyer"), ended_at=None).select_related("unit"),
        _held,
    ),
    ("Bundles", lambda w: Bundle.objects.filter(words_in(w, "title")), _bundle),
    ("Receipts", lambda w: Receipt.objects.filter(words_in(w, "buyer")).prefetch_related("lines"), _receipt),
    ("Parcels", lambda w: Parcel.objects.filter(words_in(w, "tracking", "address")), _parcel),
    ("Channels", lambda w: Channel.objects.filter(words_in(w, "name")), _channel),
    ("Carriers", lambda w: Carrier.objects.filter(words_in(w, "name")), _carrier),
    ("Boxes", lambda w: BoxSize.objects.filter(words_in(w, "name")), _box),
    ("People", lambda w: Person.objects.filter(words_in(w, "first_name", "last_name", "username")), _person),
)
