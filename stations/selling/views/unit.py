"""Grade, price, words and sale of a unit."""

from django.db.models import prefetch_related_objects
from django.http import Http404
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.common.refusals import Refused
from stations.people import shop_settings
from stations.people.screens import press, saved, sent
from stations.selling import offers, selectors, services, sheet, wording
from stations.selling.forms import CounterForm, OfferForm, PriceForm, ReserveForm, SaleForm, TextForm
from stations.selling.models import Offer, Sale
from stations.units.as_it_is import bench_facts
from stations.units.models import Unit


def unit(request, number):
    return _page(request, _unit(number))


def _unit(number) -> Unit:
    return get_object_or_404(Unit.objects.select_related("lot", "model", "line"), number=number)


def _page(request, row, **given):
    """Grade, price, what blocks, the words, the sale: one page, in the order of the work."""
    prefetch_related_objects([row], "jobs", "findings", "contents")
    found = sheet.sheet_of(row)
    settings = shop_settings.settings()
    suggested = found.waiting.ask_now if found.waiting else None
    context = {
        "unit": row,
        "sheet": found,
        "listing": found.listing,
        "blocks": selectors.blocks_with_pages(row, found.facts),
        "sale": Sale.objects.filter(unit=row).first(),
        "facts": bench_facts(row),
        "shop": settings,
        "price_form": PriceForm(instance=found.listing, initial={"asking": found.listing.asking or suggested}),
        "text_form": TextForm(instance=found.listing),
        "offer_form": OfferForm(prefix="offer"),
        "reserve_form": ReserveForm(prefix="reserve"),
        "sale_form": SaleForm(
            initial={
                "price": (found.held.price if found.held else None) or found.listing.asking,
                "buyer": found.held.buyer if found.held else "",
                "postage": settings.postage,
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
    told = "\n\n".join(wording.said(wording.listing_facts(row)))
    form = TextForm(request.POST, instance=selectors.listing_of(row), must_say=len(told) + 2)

    def save(data):
        services.save_text(request.user, row, data["version"], data["title"], data["text"])

    return saved(request, form, save, _place(number, "text_form")) or _page(request, _unit(number), text_form=form)


@require_POST
def sale(request, number):
    form = SaleForm(request.POST)

    def save(data):
        services.sell(request.user, _unit(number), data["price"], data["buyer"], data["postage"])

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
def answer(request, pk):
    """Take an offer, decline it, or ask for more."""
    row = get_object_or_404(Offer.objects.select_related("unit"), pk=pk)

    def act():
        status = sent(request, "status")
        if status not in {Offer.Status.TAKEN, Offer.Status.DECLINED, Offer.Status.COUNTERED}:
            raise Refused("Take it, decline it, or ask for more.")
        form = CounterForm(request.POST)
        if status == Offer.Status.COUNTERED and not form.is_valid():
            raise Refused(form.errors["counter"][0])
        counter = form.cleaned_data["counter"] if status == Offer.Status.COUNTERED else None
        offers.respond(request.user, row, Offer.Status(status), counter)

    return press(request, act, _place(row.unit.number, "offers"), "counter")


@require_POST
def word(request, number):
    """Words of one’s own for one thing that must be said."""

    def act():
        wording.word_anew(
            request.user, _unit(number), sent(request, "kind"), request.POST.get("what", ""), sent(request, "words")
        )

    return press(request, act, _place(number, "said"), "words")


def _place(number, section):
    return reverse("selling:unit", args=[number]) + f"#{section}"


@require_POST
def one_press(request, number, what):
    """The buttons of the page that need nothing but a press."""
    row = _unit(number)
    there = reverse("selling:unit", args=[number])
    acts = {
        "grade": lambda: services.grade_unit(request.user, row),
        "update": lambda: wording.take_changes(request.user, row, selectors.listing_of(row)),
        "let-go": lambda: offers.let_go(request.user, row, sent(request, "words")),
        "write": lambda: services.write_from_facts(request.user, row),
        "publish": lambda: services.publish(request.user, row),
        "end": lambda: services.end_listing(request.user, row, sent(request, "reason")),
        "send": lambda: services.send(request.user, row, sent(request, "tracking")),
        "close": lambda: services.close_sale(request.user, row),
    }
    if what not in acts:
        raise Http404

    return press(request, lambda: acts[what](), there)
