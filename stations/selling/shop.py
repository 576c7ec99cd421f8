"""What the public shop reads: what is for sale, searched, sorted and paged, without a query for each."""

import re
from dataclasses import dataclass
from decimal import Decimal

from django.core.paginator import Page
from django.urls import reverse

from core.selling.grade import Grade
from stations.catalogue.models import FORM_FACTORS
from stations.common import clock
from stations.common.paging import ByKeys
from stations.common.templatetags.figures import money
from stations.selling.models import Listing, ListingWord, Reserved
from stations.selling.pictures import first_pictures
from stations.selling.placing import words_of

ORDERS = {
    "newest": ("newest first", ("-published_at", "-id")),
    "cheapest": ("cheapest first", ("asking", "id")),
    "dearest": ("dearest first", ("-asking", "-id")),
}
STATES = {
    "tested": ("tested and working", [g.value for g in Grade if g not in {Grade.PARTS, Grade.UNTESTED}]),
    "untested": ("not tested", [Grade.UNTESTED.value]),
    "parts": ("for parts or repair", [Grade.PARTS.value]),
}
MOST_WORDS, A_PAGE = 6, 24
# So many can be paged through: who has not found it by then looks for it.
MOST = 100 * A_PAGE
# What of a listing its card shows.
SHOWN = ("title", "asking", "grade", "unit__number", "unit__title")


@dataclass(frozen=True)
class Wanted:
    """What a visitor looks for; whatever makes no sense is left out."""

    words: str = ""
    shape: str = ""
    state: str = ""
    most: Decimal | None = None
    order: str = "newest"

    @classmethod
    def of(cls, asked) -> "Wanted":
        most = asked.get("most", "").strip().replace(",", ".")
        return cls(
            asked.get("q", "").strip()[:80],
            asked.get("shape", "") if asked.get("shape", "") in dict(FORM_FACTORS) else "",
            asked.get("state", "") if asked.get("state", "") in STATES else "",
            Decimal(most) if re.fullmatch(r"\d{1,7}(\.\d{1,2})?", most) else None,
            asked.get("order", "") if asked.get("order", "") in ORDERS else "newest",
        )

    @property
    def filtered(self) -> bool:
        return bool(self.words or self.shape or self.state or self.most is not None)


def for_sale(wanted: Wanted | None = None):
    """Listings that the shop shows, as wanted: every word begins one of the title."""
    wanted = wanted or Wanted()
    rows = Listing.objects.filter(on_show=True)
    if wanted.words and not words_of(wanted.words):
        return rows.none()
    for word in sorted(words_of(wanted.words))[:MOST_WORDS]:
        rows = rows.filter(pk__in=ListingWord.objects.filter(word__istartswith=word).values("listing"))
    if wanted.shape:
        rows = rows.filter(shape=wanted.shape)
    if wanted.state:
        rows = rows.filter(grade__in=STATES[wanted.state][1])
    if wanted.most is not None:
        rows = rows.filter(asking__lte=wanted.most)
    return rows.order_by(*ORDERS[wanted.order][1])


def page_of(wanted: Wanted, number: str | None) -> Page:
    """A page of them, with their units: what is looked for is gone through once, and everything is only counted."""
    keys = for_sale(wanted).values_list("pk", flat=True)
    rows = Listing.objects.select_related("unit").only(*SHOWN)
    return ByKeys(list(keys[: MOST + 1]) if wanted.filtered else keys, rows, A_PAGE, MOST).get_page(number)


@dataclass(frozen=True)
class Card:
    """One listing in the shop’s list; `picture` is where its picture is, empty without one."""

    title: str
    price: str
    address: str
    picture: str
    grade: str
    reserved: bool


def cards(listings: list[Listing]) -> list[Card]:
    """With picture and whether it is reserved: two queries for all."""
    ids = [one.unit_id for one in listings]
    pictures = first_pictures(ids)
    held = set(Reserved.objects.filter(until__gt=clock.now(), open_for__in=ids).values_list("unit_id", flat=True))
    front, found = reverse("shop:front"), []
    for one in listings:
        first = pictures.get(one.unit_id)
        picture = f"{front}pictures/{first}/small/" if first else ""
        address = f"{front}W-{one.unit.number}/"
        grade = one.get_grade_display() if one.grade else ""
        found.append(Card(one.title, money(one.asking), address, picture, grade, one.unit_id in held))
    return found
