"""What the public shop reads: what is for sale, searched, sorted and paged, without a query for each."""

import re
from dataclasses import dataclass
from decimal import Decimal

from django.db.models import Q

from core.selling.grade import Grade
from stations.catalogue.models import FORM_FACTORS
from stations.common import clock
from stations.selling.models import Listing, Reserved
from stations.selling.pictures import Picture, pictures_by_unit

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
MOST_WORDS = 6


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
    """Listings that the shop shows, as wanted: every word stands in the title."""
    wanted = wanted or Wanted()
    rows = Listing.objects.filter(on_show=True)
    for word in wanted.words.split()[:MOST_WORDS]:
        rows = rows.filter(title__icontains=word)
    if wanted.shape:
        rows = rows.filter(unit__form_factor=wanted.shape)
    if wanted.state:
        rows = rows.filter(grade__in=STATES[wanted.state][1])
    if wanted.most is not None:
        rows = rows.filter(asking__lte=wanted.most)
    return rows.select_related("unit").order_by(*ORDERS[wanted.order][1])


@dataclass(frozen=True)
class Shown:
    """One listing in the shop’s list."""

    listing: Listing
    picture: Picture | None
    reserved: bool


def shown(listings: list[Listing]) -> list[Shown]:
    """With picture and whether it is reserved: four queries for all."""
    pictures = pictures_by_unit([one.unit for one in listings])
    ids = [one.unit_id for one in listings]
    held = set(Reserved.objects.filter(Q(until__gt=clock.now()), open_for__in=ids).values_list("unit_id", flat=True))
    return [Shown(one, next(iter(pictures[one.unit_id]), None), one.unit_id in held) for one in listings]
