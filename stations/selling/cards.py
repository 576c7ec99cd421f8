"""Cards for a fair: what it is, how it was graded, what was tested and what is wrong, its price, its page."""

import segno
from django.template.loader import render_to_string
from django.urls import reverse

from stations.common.currency import base_currency
from stations.selling import wording
from stations.selling.models import Channel, Listing
from stations.selling.selectors import grade_set
from stations.units.models import Unit

# So many cards at once; so much of what must be said has room on one, and it says how much more there is.
MOST, SAID = 48, 3


def cards(channel: Channel, base: str, shop: str) -> bytes:
    """A PDF of A4 pages, eight cards a page, of what is to stand on this channel; the first MOST by number."""
    units = Unit.objects.filter(placements__channel=channel, placements__wanted=True).order_by("number")[:MOST]
    rows = [_card(unit, base) for unit in units.select_related("model", "line", "listing")]
    context = {"rows": rows, "shop": shop, "currency": base_currency(), "channel": channel}
    from weasyprint import HTML  # slow to load, and only wanted here

    page = render_to_string("selling/cards.html", context)
    return HTML(string=page).write_pdf()


def _card(unit: Unit, base: str) -> dict:
    listing: Listing = unit.listing
    facts, given = wording.listing_facts(unit), grade_set(unit)
    said = wording.said(facts)
    address = base + reverse("shop:unit", args=[unit.number])
    return {
        "unit": unit,
        "listing": listing,
        "grade": given,
        "passed": facts.passed,
        "said": said[:SAID],
        "more": max(0, len(said) - SAID),
        "qr": segno.make(address, error="m").svg_inline(scale=2, border=0),
        "address": address,
    }
