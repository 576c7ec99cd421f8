"""The public pages of the shop."""

import json

from django.contrib.auth.decorators import login_not_required
from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.utils.safestring import mark_safe

from core.selling.grade import Grade
from stations.common.currency import base_currency
from stations.people import shop_settings
from stations.selling import holding, selectors, wording
from stations.selling.models import Listing
from stations.selling.pictures import pictures_of
from stations.units.drawing import condition_map
from stations.units.models import Finding


@login_not_required
def shop_front(request):
    """What is for sale, for anybody."""
    page = Paginator(selectors.for_sale(), 24).get_page(request.GET.get("page"))
    return render(request, "selling/shop_front.html", {"page": page, "shop": shop_settings.settings()})


@login_not_required
def shop_unit(request, number):
    """One unit for sale, with its facts as schema.org JSON-LD."""
    listing = get_object_or_404(
        # A sale that is closed is nobody's business any more.
        Listing.objects.select_related("unit__model").filter(unit__sale__closed_at=None),
        unit__number=number,
        status__in=["live", "sold"],
    )
    settings = shop_settings.settings()
    pictures = pictures_of(listing.unit)
    held = listing.status == Listing.Status.LIVE and bool(selectors.blocks_of(listing.unit))
    # What was written holds no longer: nothing of it is claimed, to people or to machines.
    said = wording.said(wording.listing_facts(listing.unit))
    description = "" if held else "\n\n".join([listing.text, *said])
    shown = {"name": listing.unit.title if held else listing.title, "description": description}
    findings = list(listing.unit.findings.exclude(status=Finding.Status.RESOLVED))
    data = json_ld(request, listing, settings, pictures, shown, held)
    context = {
        "held": held,
        "shown": shown,
        "listing": listing,
        "unit": listing.unit,
        "shop": settings,
        "pictures": pictures,
        "said": said,
        "reserved": holding.reserved(listing.unit),
        "report": selectors.report_of(listing.unit),
        "findings": findings,
        "map": condition_map(listing.unit, findings),
        "narrow_map": condition_map(listing.unit, findings, narrow=True),
        "json_ld": data,
    }
    return render(request, "selling/shop_unit.html", context)


def json_ld(request, listing, settings, pictures, shown, held=False):
    """Product and Offer of schema.org; refurbished, used or damaged by what the record proves now."""
    grade = selectors.graded_now(listing.unit).grade
    usual = "UsedCondition" if held else "RefurbishedCondition"
    condition = {Grade.PARTS: "DamagedCondition", Grade.UNTESTED: "UsedCondition"}.get(grade, usual)
    sold = listing.status == Listing.Status.SOLD
    product = {
        "@context": "https://schema.org",
        "@type": "Product",
        **shown,
        "sku": str(listing.unit.tag),
        "itemCondition": f"https://schema.org/{condition}",
        "image": [
            request.build_absolute_uri(reverse("shop:picture", args=[picture.photo.pk, "full"])) for picture in pictures
        ],
        "offers": {
            "@type": "Offer",
            "price": str(listing.asking),
            "priceCurrency": base_currency(),
            "availability": f"https://schema.org/{'SoldOut' if sold else 'OutOfStock' if held else 'InStock'}",
            "itemCondition": f"https://schema.org/{condition}",
            "url": request.build_absolute_uri(),
            "seller": {"@type": "Organization", "name": settings.name},
        },
    }
    if listing.unit.model:
        product["brand"] = {"@type": "Brand", "name": listing.unit.model.maker}
        product["model"] = listing.unit.model.name
    # < > & are escaped so that no text can close the script element; JSON reads the escapes as the same text.
    body = json.dumps(product, ensure_ascii=False)
    for sign in "<>&":
        body = body.replace(sign, f"\\u{ord(sign):04x}")
    return mark_safe(body)  # noqa: S308 - escaped just above
