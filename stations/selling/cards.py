"""Cards for a fair: what it is, how it was graded, what was tested and what is wrong, its price, its page."""

from collections.abc import Mapping, Sequence

from django.db.models import QuerySet
from django.template.loader import render_to_string
from django.urls import reverse

from core.machine.tags import Tag
from core.selling.disclosure import told
from core.selling.listing import ListingFacts
from stations.common import qr
from stations.common.currency import base_currency
from stations.selling import wording
from stations.selling.as_recorded import READ, listing_facts_of
from stations.selling.models import Channel, Listing
from stations.units.models import Unit

# So many cards at once: six sheets.
MOST = 48
# So many letters of what was tested and of what must be said have room on one: whole or not at all, since half of what
# is wrong may say the contrary; it says how much more there is.
TESTED, SAID = 70, 230


def _to_stand_on(channel: Channel) -> "QuerySet[Unit]":
    return Unit.objects.filter(placements__channel=channel, placements__wanted=True).order_by("number")


def batches(channel: Channel) -> list[Tag]:
    """With which unit each printing begins of what is to stand on this channel."""
    return [Tag(number) for number in _to_stand_on(channel).values_list("number", flat=True)[::MOST]]


def cards(channel: Channel, base: str, shop: str, first: int = 0) -> bytes:
    """A PDF of A4 pages, eight cards a page, of what is to stand on this channel: MOST from the unit of the number
    `first` on."""
    chosen = _to_stand_on(channel).filter(number__gte=first).select_related("model", "line", "listing")
    units = list(chosen.prefetch_related(*READ)[:MOST])
    facts, own = listing_facts_of(units), wording.sentences()
    rows = [_card(unit, facts[unit.pk], own, base) for unit in units]
    context = {"rows": rows, "shop": shop, "currency": base_currency(), "channel": channel}
    from weasyprint import HTML  # slow to load, and only wanted here

    page = render_to_string("selling/cards.html", context)
    return HTML(string=page).write_pdf()


def _that_fit(words: Sequence[str], room: int) -> list[str]:
    """Those that have room together, the first before the others."""
    found = []
    for each in words:
        if len(each) <= room:
            found.append(each)
            room -= len(each)
    return found


def _card(unit: Unit, facts: ListingFacts, own: Mapping[str, str], base: str) -> dict:
    listing: Listing = unit.listing
    said, passed = told(wording.must_say(facts), own), facts.passed
    shown, tested = _that_fit(said, SAID), _that_fit(passed, TESTED)
    address = base + reverse("shop:unit", args=[unit.number])
    return {
        "unit": unit,
        "listing": listing,
        "grade": facts.grade,
        "tested": tested,
        "tested_more": len(passed) - len(tested),
        "said": shown,
        "more": len(said) - len(shown),
        "qr": qr.svg(address),
        "address": address,
    }
