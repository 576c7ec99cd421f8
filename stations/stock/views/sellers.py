"""Who sells parts."""

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from stations.people.screens import saved
from stations.stock import sellers
from stations.stock.forms import SellerForm
from stations.stock.models import PartSeller

PER_PAGE = 25


def all_sellers(request):
    page = Paginator(sellers.with_orders(), PER_PAGE).get_page(request.GET.get("page"))
    return render(request, "stock/sellers.html", {"page": page})


def seller(request, pk):
    """One of them: what is said of it, to be put right, and what was ordered there."""
    row = get_object_or_404(PartSeller, pk=pk)
    form = SellerForm(request.POST or None, instance=PartSeller.objects.get(pk=pk))

    def save(data):
        together = data.pop("together")
        kept = sellers.change_seller(request.user, row, sellers.SellerDetails(**data), together)
        return reverse("stock:seller", args=[kept.pk])

    if done := saved(request, form, save):
        return done
    context = {
        "seller": row,
        "form": form,
        "page": Paginator(row.orders.all(), PER_PAGE).get_page(request.GET.get("page")),
        "offers": row.offers.all()[:40],
    }
    return render(request, "stock/seller.html", context)
