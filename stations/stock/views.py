"""The drawers, and the known-good shelf."""

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.people.editing import attempt, press
from stations.stock import selectors, services, shelf
from stations.stock.forms import KnownGoodForm, StockForm
from stations.stock.models import KnownGood, StockItem


def parts(request):
    """The drawers; the form puts bought parts in one."""
    form = StockForm(request.POST or None)
    if request.method == "POST":

        def act(data):
            services.stock_part(request.user, data, data["quantity"], data["paid"])
            return reverse("stock:parts")

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    page = Paginator(StockItem.objects.all(), 25).get_page(request.GET.get("page"))
    return render(
        request, "stock/parts.html", {"form": form, "page": page, "rows": selectors.stock_with_value(list(page))}
    )


def known_good(request):
    """The shelf: what stands in, when it was last shown to be good, and how far its word counts."""
    form = KnownGoodForm(request.POST or None)
    if request.method == "POST":

        def act(data):
            shelf.shelve(request.user, data)
            return reverse("stock:known-good")

        if leads_to := attempt(request, form, act):
            return redirect(leads_to)
    page = Paginator(shelf.all_with_trust(), 50).get_page(request.GET.get("page"))
    return render(request, "stock/known_good.html", {"page": page, "form": form})


@require_POST
def verify(request, pk):
    row = get_object_or_404(KnownGood, pk=pk)
    there = reverse("stock:known-good")

    def act():
        shelf.verify(request.user, row)
        return there

    return press(request, act, there)
