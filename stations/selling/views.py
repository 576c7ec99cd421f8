import json

from django.contrib.auth.decorators import login_not_required
from django.core.paginator import Paginator
from django.http import Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_POST

from core.flow.stage import Station
from core.selling.grade import Grade
from stations.people import shop
from stations.people.editing import attempt, press
from stations.selling import selectors, services
from stations.selling.drawing import price_chart
from stations.selling.forms import ChannelForm, ComparableForm, PriceForm, SaleForm, TextForm
from stations.selling.models import Channel, Comparable, Listing, Sale
from stations.units.as_it_is import bench_facts
from stations.units.models import Unit


def selling(request):
    units = (
        Unit.objects.filter(station=Station.SELLING).select_related("lot", "listing").order_by("stage", "stage_since")
    )
    to_send = Unit.objects.filter(stage__in=["sold", "sent"]).select_related("lot", "sale").order_by("stage_since")
    page = Paginator(units, 25).get_page(request.GET.get("page"))
    return render(request, "selling/selling.html", {"page": page, "to_send": to_send[:50]})


def unit(request, number):
    return _page(request, _unit(number))


def _unit(number) -> Unit:
    return get_object_or_404(Unit.objects.select_related("lot", "model", "line"), number=number)


def _page(request, row, **given):
    """Grade, price, what blocks, the words, the sale: one page, in the order of the work."""
    now, set_to = selectors.graded_now(row), selectors.grade_set(row)
    grade = Grade(set_to.grade) if set_to else now.grade
    listing = selectors.listing_of(row)
    band, comparables = selectors.band_of(row, grade)
    try:
        least, floor = selectors.floors_of(row, listing.channel) if listing.channel_id else (None, None)
    except ValueError:
        least = floor = None
    settings = shop.settings()
    sale = Sale.objects.filter(unit=row).first()
    context = {
        "unit": row,
        "now": now,
        "set_to": set_to,
        "listing": listing,
        "band": band,
        "comparables": comparables,
        "least": least,
        "floor": floor,
        "blocks": selectors.blocks_with_pages(row),
        "sale": sale,
        "facts": bench_facts(row),
        "chart": price_chart(band, float(floor) if floor is not None else None) if band else None,
        "price_form": PriceForm(
            instance=listing, initial={"asking": listing.asking or (band.likely if band else None)}
        ),
        "text_form": TextForm(instance=listing),
        "sale_form": SaleForm(initial={"price": listing.asking, "postage": settings.postage}),
        **given,
    }
    return render(request, "selling/unit.html", context)


def _posted(request, number, make_form, act, name):
    row = _unit(number)
    listing = selectors.listing_of(row)
    form = make_form(listing)

    def do(data):
        act(row, listing, data)
        return reverse("selling:unit", args=[number]) + f"#{name}"

    if leads_to := attempt(request, form, do):
        return redirect(leads_to)
    return _page(request, _unit(number), **{name: form})


@require_POST
def price(request, number):
    def act(row, listing, data):
        services.set_price(
            request.user, row, data["version"], data["channel"], data["asking"], data["below_floor_reason"]
        )

    return _posted(request, number, lambda listing: PriceForm(request.POST, instance=listing), act, "price_form")


@require_POST
def text(request, number):
    def act(row, listing, data):
        services.save_text(request.user, row, data["version"], data["title"], data["text"])

    return _posted(request, number, lambda listing: TextForm(request.POST, instance=listing), act, "text_form")


@require_POST
def sale(request, number):
    def act(row, listing, data):
        services.sell(request.user, row, data["price"], data["buyer"], data["postage"])

    return _posted(request, number, lambda listing: SaleForm(request.POST), act, "sale_form")


@require_POST
def do(request, number, what):
    """The buttons of the page that need nothing but a press."""
    row = _unit(number)
    there = reverse("selling:unit", args=[number])
    acts = {
        "grade": lambda: services.grade_unit(request.user, row),
        "write": lambda: services.write_from_facts(request.user, row),
        "publish": lambda: services.publish(request.user, row),
        "end": lambda: services.end_listing(request.user, row, request.POST.get("reason", "").strip()),
        "send": lambda: services.send(request.user, row, request.POST.get("tracking", "").strip()),
        "close": lambda: services.close_sale(request.user, row),
    }
    if what not in acts:
        raise Http404

    def act():
        acts[what]()
        return there

    return press(request, act, there)


def comparables(request):
    form = ComparableForm(request.POST or None)
    if request.method == "POST":

        def act(data):
            services.add_comparable(request.user, data)
            return reverse("selling:comparables")

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    page = Paginator(Comparable.objects.select_related("model"), 25).get_page(request.GET.get("page"))
    return render(request, "selling/comparables.html", {"form": form, "page": page})


def channels(request):
    """Where we sell, and what it keeps."""
    form = ChannelForm(request.POST or None)
    if request.method == "POST":

        def act(data):
            services.add_channel(request.user, data)
            return reverse("selling:channels")

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    page = Paginator(Channel.objects.all(), 25).get_page(request.GET.get("page"))
    return render(request, "selling/channels.html", {"form": form, "page": page})


@login_not_required
def shop_front(request):
    """What is for sale, for anybody."""
    page = Paginator(selectors.for_sale(), 24).get_page(request.GET.get("page"))
    return render(request, "selling/shop_front.html", {"page": page, "shop": shop.settings()})


@login_not_required
def shop_unit(request, number):
    """One unit for sale, with its facts as schema.org JSON-LD."""
    listing = get_object_or_404(
        # A sale that is closed is nobody's business any more.
        Listing.objects.select_related("unit__model").filter(unit__sale__closed_at=None),
        unit__number=number,
        status__in=["live", "sold"],
    )
    settings = shop.settings()
    photos = list(listing.unit.photos.all())
    held = listing.status == Listing.Status.LIVE and bool(selectors.blocks_of(listing.unit))
    # What was written holds no longer: nothing of it is claimed, to people or to machines.
    shown = {"name": listing.unit.title if held else listing.title, "description": "" if held else listing.text}
    data = json_ld(request, listing, settings, photos, shown, held)
    context = {
        "held": held,
        "shown": shown,
        "listing": listing,
        "unit": listing.unit,
        "shop": settings,
        "photos": photos,
        "json_ld": data,
    }
    return render(request, "selling/shop_unit.html", context)


def json_ld(request, listing, settings, photos, shown, held=False):
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
        "image": [request.build_absolute_uri(reverse("units:photo", args=[photo.pk, "full"])) for photo in photos],
        "offers": {
            "@type": "Offer",
            "price": str(listing.asking),
            "priceCurrency": settings.currency,
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
