"""The public pages of the shop."""

import json

from django.contrib.auth.decorators import login_not_required
from django.http import Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.safestring import mark_safe

from core.selling.grade import Grade
from core.selling.listing import blocks
from stations.catalogue.models import FORM_FACTORS
from stations.common.currency import base_currency
from stations.common.refusals import Refused
from stations.people import shop_settings
from stations.selling import holding, inbox, selectors, shop, shop_pages, wording
from stations.selling.as_recorded import listing_facts
from stations.selling.forms import AskForm
from stations.selling.models import Channel, Listing, Placement
from stations.selling.pictures import pictures_of
from stations.selling.services import promises
from stations.units.drawing import condition_map
from stations.units.models import Finding


@login_not_required
def shop_front(request):
    """What is for sale, for anybody: searched, sorted, a page at a time."""
    wanted = shop.Wanted.of(request.GET)
    page = shop.page_of(wanted, request.GET.get("page"))
    context = {
        "page": page,
        "cards": shop.cards(list(page.object_list)),
        "wanted": wanted,
        "shapes": FORM_FACTORS,
        "states": [(code, words) for code, (words, _) in shop.STATES.items()],
        "orders": [(code, words) for code, (words, _) in shop.ORDERS.items()],
    }
    return _render(request, "selling/shop_front.html", context)


@login_not_required
def shop_unit(request, number):
    """One unit for sale, with its facts as schema.org JSON-LD; a visitor can ask or offer."""
    listing = _listing(number)
    form = AskForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        try:
            # What fills the field that people do not see is thanked, and not kept.
            if not data["website"]:
                inbox.from_the_shop(listing.unit, data["who"], data["contact"], data["words"].strip(), data["amount"])
        except Refused as problem:
            form.add_error(problem.field if problem.field in form.fields else None, problem.message)
        else:
            return redirect(reverse("shop:unit", args=[number]) + "?sent=1#ask")
    return _unit_page(request, listing, form)


def _listing(number) -> Listing:
    shops = Channel.objects.filter(kind=Channel.Kind.SHOP)
    rows = Listing.objects.select_related("unit__model", "unit__line", "unit__lot")
    # A sale that is closed is nobody's business any more, and what was taken off the shop is not shown there.
    rows = rows.filter(unit__sale__closed_at=None, status__in=["live", "sold"])
    if shops.exists():
        there = Placement.objects.filter(channel__in=shops, chosen=True)
        rows = rows.filter(unit__in=there.values("unit"))
    return get_object_or_404(rows, unit__number=number)


def _unit_page(request, listing, form):
    settings, unit = shop_settings.settings(), listing.unit
    pictures = pictures_of(unit)
    facts = listing_facts(unit)
    # What was written holds no longer: nothing of it is claimed, to people or to machines.
    held = listing.status == Listing.Status.LIVE and bool(blocks(facts))
    said = wording.said(facts)
    description = "" if held else "\n\n".join([listing.text, *said])
    shown = {"name": unit.title if held else listing.title, "description": description}
    findings = list(unit.findings.exclude(status=Finding.Status.RESOLVED))
    reserved = holding.reserved(unit)
    data = json_ld(request, listing, settings, pictures, shown, held, reserved is not None)
    context = {
        "held": held,
        "shown": shown,
        "listing": listing,
        "unit": unit,
        "facts": facts,
        "grade": selectors.told_grade(listing, held),
        "pictures": pictures,
        "said": said,
        "reserved": reserved,
        "promised": promises["terms of sale"](facts.grade.value if facts.grade else ""),
        "report": selectors.report_of(unit),
        "findings": findings,
        "map": condition_map(unit, findings),
        "narrow_map": condition_map(unit, findings, narrow=True),
        "json_ld": data,
        "bundles": unit.bundles.filter(ended_at=None).prefetch_related("units")[:3],
        "form": form,
        "sent": request.GET.get("sent"),
    }
    return _render(request, "selling/shop_unit.html", context)


@login_not_required
def shop_page(request, slug):
    """How to buy, postage, returns, who we are."""
    told = shop_pages.page_of(slug)
    if told is None:
        raise Http404
    return _render(request, "selling/shop_page.html", {"told": told})


def _render(request, template, context):
    common = {"shop": shop_settings.settings(), "shop_pages": shop_pages.all_pages()}
    return render(request, template, {**common, **context})


def json_ld(request, listing, settings, pictures, shown, held=False, reserved=False):
    """Product and Offer of schema.org; refurbished, used or damaged by its grade."""
    grade = selectors.told_grade(listing, held)
    usual = "UsedCondition" if held else "RefurbishedCondition"
    condition = {Grade.PARTS: "DamagedCondition", Grade.UNTESTED: "UsedCondition"}.get(grade, usual)
    stock = "SoldOut" if listing.is_sold else "OutOfStock" if held or reserved else "InStock"
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
            "availability": f"https://schema.org/{stock}",
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
