"""Grade, price, words and sale of a unit."""

from django.http import Http404
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.selling.grade import Grade
from stations.people import shop_settings
from stations.people.screens import press, saved, sent
from stations.selling import selectors, services
from stations.selling.drawing import price_chart
from stations.selling.forms import PriceForm, SaleForm, TextForm
from stations.selling.models import Sale
from stations.units.as_it_is import bench_facts
from stations.units.models import Unit


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
    settings = shop_settings.settings()
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


@require_POST
def price(request, number):
    row = _unit(number)
    form = PriceForm(request.POST, instance=selectors.listing_of(row))

    def save(data):
        services.set_price(
            request.user, row, data["version"], data["channel"], data["asking"], data["below_floor_reason"]
        )

    return saved(request, form, save, _place(number, "price_form")) or _page(request, _unit(number), price_form=form)


@require_POST
def text(request, number):
    row = _unit(number)
    form = TextForm(request.POST, instance=selectors.listing_of(row))

    def save(data):
        services.save_text(request.user, row, data["version"], data["title"], data["text"])

    return saved(request, form, save, _place(number, "text_form")) or _page(request, _unit(number), text_form=form)


@require_POST
def sale(request, number):
    form = SaleForm(request.POST)

    def save(data):
        services.sell(request.user, _unit(number), data["price"], data["buyer"], data["postage"])

    return saved(request, form, save, _place(number, "sale_form")) or _page(request, _unit(number), sale_form=form)


def _place(number, section):
    return reverse("selling:unit", args=[number]) + f"#{section}"


@require_POST
def one_press(request, number, what):
    """The buttons of the page that need nothing but a press."""
    row = _unit(number)
    there = reverse("selling:unit", args=[number])
    acts = {
        "grade": lambda: services.grade_unit(request.user, row),
        "write": lambda: services.write_from_facts(request.user, row),
        "publish": lambda: services.publish(request.user, row),
        "end": lambda: services.end_listing(request.user, row, sent(request, "reason")),
        "send": lambda: services.send(request.user, row, sent(request, "tracking")),
        "close": lambda: services.close_sale(request.user, row),
    }
    if what not in acts:
        raise Http404

    return press(request, lambda: acts[what](), there)
