"""Several units priced and sold together."""

from urllib.parse import urlencode

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.common.paging import first_of
from stations.common.typed import whole_number
from stations.people.screens import press, saved
from stations.selling import bundle_sale
from stations.selling import bundles as together
from stations.selling.forms import BundleForm, SaleForm
from stations.selling.models import Bundle, Listing


def bundles(request):
    """Choose units, see what they save together and the least to take, and offer them as one."""
    numbers = [n for n in map(whole_number, request.GET.getlist("unit")) if n][: together.MOST + 1]
    chosen = list(
        Listing.objects.filter(status=Listing.Status.LIVE, unit__number__in=numbers).select_related("unit", "channel")
    )
    parcels = min(max(1, whole_number(request.GET.get("parcels", "")) or 1), max(1, len(chosen)))
    sums = together.sums_of(chosen, parcels) if 2 <= len(chosen) <= together.MOST else None
    form = BundleForm(request.POST or None, initial={"price": sums.proposed if sums else None})

    def save(data):
        units = [one.unit for one in chosen]
        reason = data["below_floor_reason"]
        row = together.put_together(request.user, units, data["title"], data["price"], parcels, reason)
        return reverse("selling:bundle", args=[row.pk])

    if done := saved(request, form, save):
        return done
    words = request.GET.get("q", "").strip()
    others = Listing.objects.filter(status=Listing.Status.LIVE).select_related("unit").order_by("-published_at", "-id")
    others = others.exclude(pk__in=[one.pk for one in chosen])
    if words:
        others = others.filter(title__icontains=words)
    context = {
        "form": form,
        "chosen": chosen,
        "sums": sums,
        "parcels": parcels,
        "too_many": len(chosen) > together.MOST,
        "q": words,
        "page": Paginator(others, 15).get_page(request.GET.get("page")),
        "query": urlencode([("unit", one.unit.number) for one in chosen] + [("parcels", parcels), ("q", words)]),
        "open": Bundle.objects.filter(ended_at=None).prefetch_related("units"),
        "past": first_of(Bundle.objects.exclude(ended_at=None).order_by("-ended_at"), 10),
    }
    return render(request, "selling/bundles.html", context)


def bundle(request, pk):
    """One bundle, sold as a whole."""
    row = get_object_or_404(Bundle.objects.prefetch_related("units__listing"), pk=pk)
    listings = list(Listing.objects.filter(unit__in=row.units.all()).select_related("unit", "channel"))
    postage = together.postage_of(row.units.all(), row.parcels)
    first = {"price": row.price, "postage": postage, "channel": listings[0].channel_id}
    form = SaleForm(request.POST or None, initial=first)

    def save(data):
        where, on = data["channel"], data["on"]
        bundle_sale.sell_bundle(request.user, row, data["price"], data["buyer"], data["postage"], channel=where, on=on)

    if done := saved(request, form, save, reverse("selling:bundle", args=[pk])):
        return done
    sums = together.sums_of(listings, row.parcels) if row.is_open else None
    context = {
        "bundle": row,
        "listings": listings,
        "sums": sums,
        "too_cheap": sums is not None and sums.least is not None and row.price < sums.least,
        "under": together.under_the_floor(sums, row.price) if sums else "",
        "form": form,
    }
    return render(request, "selling/bundle.html", context)


@require_POST
def apart(request, pk):
    row = get_object_or_404(Bundle, pk=pk)
    return press(request, lambda: together.take_apart(request.user, row), reverse("selling:bundles"))
