"""Grade, price, words and sale of a unit."""

from dataclasses import replace

from django.db.models import prefetch_related_objects
from django.http import Http404
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.common.typed import whole_number
from stations.people import shop_settings
from stations.people.screens import press, saved, sent
from stations.selling import offers, placing, selectors, services, sheet, wording
from stations.selling.as_recorded import listing_facts
from stations.selling.forms import OfferForm, PriceForm, ReserveForm, SaleForm, TextForm, WordForm
from stations.selling.models import Channel, Placement, Sale
from stations.units.as_it_is import bench_facts
from stations.units.models import Unit
from stations.units.selectors import said_both_ways


def unit(request, number):
    return _page(request, _unit(number))


def _unit(number) -> Unit:
    return get_object_or_404(Unit.objects.select_related("lot", "model", "line"), number=number)


def _page(request, row, **given):
    """Grade, price, what blocks, the words, the sale: one page, in the order of the work."""
    prefetch_related_objects([row], "jobs", "findings", "contents")
    found = sheet.sheet_of(row)
    if said_form := given.pop("said_form", None):
        found = replace(found, said=[one.refused(said_form) for one in found.said])
    settings = shop_settings.settings()
    suggested = found.waiting.ask_now if found.waiting else None
    context = {
        "unit": row,
        "sheet": found,
        "listing": found.listing,
        "blocks": selectors.blocks_with_pages(row, found.facts),
        "sale": Sale.objects.filter(open_for=row).first(),
        "said_both_ways": said_both_ways(row.findings.all(), row.contents.all()),
        "facts": bench_facts(row),
        "shop": settings,
        "price_form": PriceForm(instance=found.listing, initial={"asking": found.listing.asking or suggested}),
        "text_form": TextForm(instance=found.listing),
        "offer_form": OfferForm(prefix="offer"),
        "reserve_form": ReserveForm(prefix="reserve"),
        "sale_form": SaleForm(
            initial={
                "channel": found.listing.channel_id,
                "price": (found.held.price if found.held else None) or found.listing.asking,
                "buyer": found.held.buyer if found.held else "",
                "postage": found.postage.amount,
            }
        ),
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
    told = "\n\n".join(wording.said(listing_facts(row)))
    form = TextForm(request.POST, instance=selectors.listing_of(row), must_say=len(told) + 2)

    def save(data):
        services.save_text(request.user, row, data["version"], data["title"], data["text"])

    return saved(request, form, save, _place(number, "text_form")) or _page(request, _unit(number), text_form=form)


@require_POST
def sale(request, number):
    form = SaleForm(request.POST)

    def save(data):
        row = _unit(number)
        where, on = data["channel"], data["on"]
        services.sell(request.user, row, data["price"], data["buyer"], data["postage"], channel=where, on=on)

    return saved(request, form, save, _place(number, "sale_form")) or _page(request, _unit(number), sale_form=form)


@require_POST
def offer(request, number):
    form = OfferForm(request.POST, prefix="offer")

    def save(data):
        offers.take_down(request.user, _unit(number), data["amount"], data["buyer"], data["until"])

    return saved(request, form, save, _place(number, "offers")) or _page(request, _unit(number), offer_form=form)


@require_POST
def reserve(request, number):
    form = ReserveForm(request.POST, prefix="reserve")

    def save(data):
        offers.reserve(request.user, _unit(number), data["buyer"], data["until"])

    return saved(request, form, save, _place(number, "offers")) or _page(request, _unit(number), reserve_form=form)


@require_POST
def word(request, number):
    """Words of one’s own for one thing that must be said."""
    form = WordForm(request.POST)

    def save(data):
        wording.word_anew(request.user, _unit(number), data["kind"], data["what"], data["words"])

    return saved(request, form, save, _place(number, "said")) or _page(request, _unit(number), said_form=form)


@require_POST
def offer_on(request, number, channel):
    row, there = _unit(number), get_object_or_404(Channel, pk=channel)
    return press(request, lambda: placing.offer_on(request.user, row, there), _place(number, "places"))


@require_POST
def placement(request, pk, what):
    """Take it off a channel, or say that this was done by hand."""
    row = get_object_or_404(Placement.objects.select_related("unit", "channel"), pk=pk)
    acts = {
        "off": lambda: placing.take_off(request.user, row),
        "confirm": lambda: placing.confirm(request.user, row, whole_number(sent(request, "seen"))),
    }
    if what not in acts:
        raise Http404
    there = reverse("selling:selling") if request.POST.get("list") else _place(row.unit.number, "places")
    return press(request, lambda: acts[what](), there)


def _place(number, section):
    return reverse("selling:unit", args=[number]) + f"#{section}"


@require_POST
def one_press(request, number, what):
    """The buttons of the page that need nothing but a press."""
    row = _unit(number)
    there, version = reverse("selling:unit", args=[number]), whole_number(sent(request, "seen"))
    acts = {
        "grade": lambda: services.grade_unit(request.user, row, sent(request, "seen")),
        "update": lambda: wording.take_changes(request.user, row, selectors.listing_of(row)),
        "let-go": lambda: offers.let_go(request.user, row, sent(request, "words")),
        "write": lambda: services.write_from_facts(request.user, row, version),
        "publish": lambda: services.publish(request.user, row, version),
        "end": lambda: services.end_listing(request.user, row, sent(request, "reason")),
    }
    if what not in acts:
        raise Http404

    return press(request, lambda: acts[what](), there)
